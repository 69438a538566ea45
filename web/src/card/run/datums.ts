/** The nine points of a section, as they are listed. */
export const datumWords: Record<string, string> = {
  "back-foot": "back, bottom",
  "middle-foot": "centre, bottom",
  "front-foot": "front, bottom",
  "back-middle": "back, centre",
  middle: "the centre",
  "front-middle": "front, centre",
  "back-head": "back, top",
  "middle-head": "centre, top",
  "front-head": "front, top",
};
