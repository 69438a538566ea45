import { go } from "./address";

export function Wordmark() {
  return (
    <a
      href="/"
      title="All jobs"
      className="font-semibold"
      onClick={(event) => {
        event.preventDefault();
        go("/");
      }}
    >
      Slow <span className="text-chalk">Ribbon</span>
    </a>
  );
}
