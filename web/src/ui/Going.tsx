import { stopTask, useTask } from "../api/tasks";
import { Words } from "./choices";

/** Long work going on: what it does, how far it has come, and a way to stop it. */
export function Going({ task, words, stop }: { task: string; words: string; stop: () => void }) {
  const figures = useTask(task);
  const share = figures?.share ?? null;
  return (
    <div role="status" className="flex items-center gap-3 text-sm">
      <span className="h-1.5 w-32 shrink-0 overflow-hidden rounded bg-rule">
        {share === null ? (
          <span className="block h-full w-1/3 animate-[slide_1.2s_ease-in-out_infinite] rounded bg-chalk" />
        ) : (
          <span className="block h-full rounded bg-chalk" style={{ width: `${Math.round(share * 100)}%` }} />
        )}
      </span>
      <span className="min-w-0 truncate">
        {figures?.going && figures.doing ? figures.doing : words}
        {share !== null && ` · ${Math.round(share * 100)} %`} …
      </span>
      <Words
        onClick={() => {
          stopTask(task);
          stop();
        }}
      >
        Stop
      </Words>
    </div>
  );
}
