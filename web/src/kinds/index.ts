/** Every kind of thing of a job, as the window shows it. Where several kinds are selected the first of them here has the card. */
import type { Group } from "../api/groups";
import { drafts } from "./drafts";
import type { KindShown } from "./kind";
import { lines } from "./lines";
import { pictures } from "./pictures";
import { rows } from "./rows";
import { runs } from "./runs";
import { sections } from "./sections";
import { typicals } from "./typicals";

const kinds = { runs, lines, sections, drafts, rows, typicals, pictures, rules: {}, row_rules: {} };

/** The kinds by their groups: what is done with things of any kind. */
export const KINDS = kinds as Record<Group, KindShown<{ id: string }>>;
