/** The shared value of several things, or null where they differ. */
export function shared<Thing, T>(things: Thing[], of: (thing: Thing) => T): T | null {
  const first = of(things[0] as Thing);
  return things.every((thing) => JSON.stringify(of(thing)) === JSON.stringify(first)) ? first : null;
}
