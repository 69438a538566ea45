/** Which checks of a job somebody accepted: by any of the keys that a check may have been accepted by. */
import type { components } from "./schema";

type CheckFigures = components["schemas"]["CheckFigures"];
type Accepted = components["schemas"]["Accepted"];

/** Return what finds the acceptance of a check, if there is one. */
export function acceptances(accepted: readonly Accepted[] | undefined): (check: CheckFigures) => Accepted | undefined {
  if (!accepted?.length) return () => undefined;
  const known = new Map(accepted.map((one) => [`${one.thing} ${one.check}`, one]));
  return (check) => {
    const key = check.keys.find((one) => known.has(`${check.thing} ${one}`));
    return key === undefined ? undefined : known.get(`${check.thing} ${key}`);
  };
}
