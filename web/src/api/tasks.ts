/** Long work that goes on at the service under a name that the window gives it. */
import { useEffect, useRef, useState } from "react";
import { answer, api, type TaskFigures } from "./client";

export const newTask = () => crypto.randomUUID?.() ?? `${Math.random()}`.slice(2);

export function stopTask(task: string) {
  void api.DELETE("/api/tasks/{task}", { params: { path: { task } } });
}

/** How far a task has come, asked for while it goes on. */
export function useTask(task: string | null): TaskFigures | null {
  const [figures, setFigures] = useState<TaskFigures | null>(null);
  const asked = useRef(task);
  asked.current = task;
  useEffect(() => {
    setFigures(null);
    if (!task) return;
    const timer = setInterval(async () => {
      try {
        const found = await answer<TaskFigures>(api.GET("/api/tasks/{task}", { params: { path: { task } } }));
        if (asked.current === task) setFigures(found);
      } catch {
        // The work itself tells what is wrong; its progress is only a courtesy.
        clearInterval(timer);
      }
    }, 350);
    return () => clearInterval(timer);
  }, [task]);
  return figures;
}
