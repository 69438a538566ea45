/** How the corners of runs are made: those toward the face, and those away from it. */
import type { Edit, Run } from "../api/client";
import { Pick } from "../ui/choices";
import { Question, Setting } from "../ui/fields";
import { useChanges } from "../window/job";
import { shared } from "./shared";

type Made = NonNullable<Run["corners"]>;
type Which = "corners" | "external";

const PIECES: ["before" | "after", string][] = [
  ["before", "the piece before"],
  ["after", "the piece after"],
];

export function CornersOfRuns({ runs }: { runs: Run[] }) {
  return (
    <>
      <Question>How are the corners made?</Question>
      <CornersMade
        runs={runs}
        which="corners"
        label="Internal"
        ways={[
          ["mitre", "mitred"],
          ["cope", "coped"],
          ["butt", "butted"],
        ]}
      />
      <CornersMade
        runs={runs}
        which="external"
        label="External"
        ways={[
          ["mitre", "mitred"],
          ["butt", "butted"],
        ]}
      />
    </>
  );
}

function CornersMade(props: { runs: Run[]; which: Which; label: string; ways: [Made["kind"] & string, string][] }) {
  const { runs, which, label, ways } = props;
  const { edit } = useChanges();
  const make = (changes: object) =>
    void edit(runs.map((run) => ({ kind: "set_run", run: run.id, changes: { [which]: changes } }) as Edit));
  const kind = shared(runs, (run) => run[which]?.kind ?? "mitre");
  const choose = (wanted: string) => {
    // What is coped inside cannot be outside: corners that were made alike are then mitred there.
    if (which === "external" || wanted !== "cope") return make({ kind: wanted });
    void edit(
      runs.map(
        (run) =>
          ({
            kind: "set_run",
            run: run.id,
            changes: {
              corners: { kind: wanted },
              ...(run.external?.kind === "cope" ? { external: { kind: "mitre" } } : {}),
            },
          }) as Edit,
      ),
    );
  };
  return (
    <>
      <Setting label={label}>
        <Pick label={`${label} corners`} value={kind} various="various" ways={ways} choose={choose} />
      </Setting>
      {kind === "butt" && (
        <Setting label="… runs through">
          <Pick
            label={`${label}: runs through`}
            value={shared(runs, (run) => through(run[which]))}
            various="various"
            ways={PIECES}
            choose={(piece) => make({ through: piece })}
          />
        </Setting>
      )}
      {kind === "cope" && (
        <Setting label="… is shaped">
          <Pick
            label={`${label}: is coped`}
            value={shared(runs, (run) => coped(run[which]))}
            various="various"
            ways={PIECES}
            choose={(piece) => make({ coped: piece })}
          />
        </Setting>
      )}
    </>
  );
}

const through = (made: Made | undefined) => (made?.kind === "butt" ? (made.through ?? "before") : "before");
const coped = (made: Made | undefined) => (made?.kind === "cope" ? (made.coped ?? "after") : "after");
