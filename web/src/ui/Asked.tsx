/** A question of a card: at rest one line, its words and its answer; a click opens it, and it stays open until the window is closed. */
import { createContext, type ReactNode, useContext, useEffect, useId } from "react";
import { create } from "zustand";
import { Words } from "./choices";

/** Where this browser keeps whether all questions are open. */
const KEPT = "slow-ribbon-open-questions";

interface Questions {
  /** Whether those that nothing was said of are open. */
  all: boolean;
  said: Record<string, boolean>;
  open: (question: string, on: boolean) => void;
  openAll: (on: boolean) => void;
}

const useQuestions = create<Questions>((set) => ({
  all: localStorage.getItem(KEPT) === "all",
  said: {},
  open: (question, on) => set(({ said }) => ({ said: { ...said, [question]: on } })),
  openAll: (on) => {
    if (on) localStorage.setItem(KEPT, "all");
    else localStorage.removeItem(KEPT);
    set({ all: on, said: {} });
  },
}));

/** The questions that a check points at: they open by themselves. */
export const PointedAt = createContext<ReadonlySet<string>>(new Set());

export function Asked({
  question,
  answer,
  opens = false,
  children,
}: {
  question: string;
  /** What is the case, in few words. */
  answer: ReactNode;
  /** Whether something is picked that it is asked of: it opens by itself then. */
  opens?: boolean;
  children: ReactNode;
}) {
  const said = useQuestions((state) => state.said[question]);
  const all = useQuestions((state) => state.all);
  const openIt = useQuestions((state) => state.open);
  const pointed = useContext(PointedAt).has(question) || opens;
  const open = said ?? (all || pointed);
  // What has opened by itself stays open when the check is mended, or another thing picked.
  useEffect(() => {
    if (pointed) openIt(question, true);
  }, [pointed, question, openIt]);
  const id = useId();
  return (
    <section className="border-rule border-b">
      <h3>
        <button
          type="button"
          data-walk="question"
          aria-expanded={open}
          aria-controls={open ? id : undefined}
          onClick={() => openIt(question, !open)}
          className="group flex w-full cursor-pointer items-baseline gap-1.5 py-1.5 text-left text-sm"
        >
          <span aria-hidden className="w-2 shrink-0 text-pencil text-xs group-hover:text-ink">
            {open ? "▾" : "▸"}
          </span>
          <span className="flex min-w-0 flex-1 flex-wrap items-baseline justify-between gap-x-2">
            <span className={open ? "font-semibold" : "text-pencil group-hover:text-ink"}>{question}</span>
            {!open && <span className="ml-auto text-right">{answer}</span>}
          </span>
        </button>
      </h3>
      {open && (
        <div id={id} className="pb-2.5">
          {children}
        </div>
      )}
    </section>
  );
}

/** Opens all questions of all cards, or closes them. */
export function AllQuestions() {
  const all = useQuestions((state) => state.all);
  const openAll = useQuestions((state) => state.openAll);
  return <Words onClick={() => openAll(!all)}>{all ? "Close all questions" : "Open all questions"}</Words>;
}
