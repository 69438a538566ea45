/** The views of a job, one entry each: their keys, the words for these, and how the window goes about with them. */

interface Way {
  view: string;
  /** The letter that shows it, and what that says in the page of keys. */
  key?: string;
  words?: string;
  /** A drawing: the view that others come back to. */
  drawing?: true;
  /** Whether the card of what is selected stands beside it: always, or when it is asked for. */
  card?: true | "asked";
  /** A place for one thing, which Esc leaves for the drawing. */
  left?: true;
  /** Whether selecting something outside it leaves it. */
  follows?: true;
  /** Whether its choices stay while another view is looked at. */
  kept?: true;
}

export const VIEWS = [
  { view: "plan", key: "P", words: "plan", drawing: true, card: true },
  { view: "solid", key: "O", words: "3D", drawing: true, card: true },
  { view: "across", key: "X", words: "the cut across a line", drawing: true, card: true },
  { view: "cutting", key: "U", words: "cutting list", card: "asked" },
  { view: "bringin", key: "B", words: "import a drawing", left: true, kept: true },
  { view: "library", key: "K", words: "pick a section from the library", left: true, follows: true },
  { view: "section", left: true, follows: true, card: true },
] as const satisfies readonly Way[];

export type View = (typeof VIEWS)[number]["view"];

export function wayOf(view: View): Way {
  return VIEWS.find((one) => one.view === view) ?? VIEWS[0];
}
