import type { KeyboardEvent } from "react";

/** Go up and down the rows of a list by the arrow keys: from the button of one row to that of the next. */
export function walkRows(event: KeyboardEvent<HTMLElement>) {
  const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
  if (!step || !(document.activeElement instanceof HTMLElement) || !document.activeElement.dataset.walk) return;
  const rows = [...event.currentTarget.querySelectorAll<HTMLElement>("[data-walk]")];
  const next = rows[rows.indexOf(document.activeElement) + step];
  if (!next) return;
  event.preventDefault();
  next.focus();
}
