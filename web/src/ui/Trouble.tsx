/** What is shown where a part of the interface fails: the job is saved, so that nothing is lost. */
import { Component, type ReactNode } from "react";
import { Button } from "./choices";

interface Props {
  /** What failed, as a person would call it. */
  part: string;
  /** What it shows: another one is tried anew. */
  about?: string;
  children: ReactNode;
}

export class Trouble extends Component<Props, { failed: Error | null }> {
  override state = { failed: null as Error | null };

  static getDerivedStateFromError(failed: Error) {
    return { failed };
  }

  override componentDidUpdate(before: Props) {
    if (this.state.failed && before.about !== this.props.about) this.setState({ failed: null });
  }

  override render() {
    const { failed } = this.state;
    if (!failed) return this.props.children;
    return (
      <div role="alert" className="m-6 max-w-xl border-red border-l-[3px] bg-red-wash px-4 py-3">
        <p className="mb-2">
          {this.props.part} cannot be shown: {failed.message || "it failed without saying why"}. The job is saved as it
          was after the last edit.
        </p>
        <div className="flex gap-2">
          <Button strong onClick={() => this.setState({ failed: null })}>
            Try again
          </Button>
          <Button onClick={() => window.location.reload()}>Reload</Button>
        </div>
      </div>
    );
  }
}
