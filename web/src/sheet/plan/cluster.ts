/** Marks that would lie over one another become one, with how many they are. */

export interface Placed {
  x: number;
  y: number;
}

/**
 * Gather marks that lie within `reach` of one that comes before them: each group stands where its first does, so that the
 * marks that matter most, given first, stay where they are.
 */
export function gathered<T extends Placed>(marks: readonly T[], reach: number): T[][] {
  const groups: T[][] = [];
  const cells = new Map<string, T[][]>();
  for (const mark of marks) {
    const [column, row] = [Math.floor(mark.x / reach), Math.floor(mark.y / reach)];
    let found: T[] | undefined;
    for (let dx = -1; dx <= 1 && !found; dx++)
      for (let dy = -1; dy <= 1 && !found; dy++)
        found = cells.get(`${column + dx} ${row + dy}`)?.find(([first]) => first && near(first, mark, reach));
    if (found) {
      found.push(mark);
      continue;
    }
    const group = [mark];
    groups.push(group);
    const cell = cells.get(`${column} ${row}`);
    if (cell) cell.push(group);
    else cells.set(`${column} ${row}`, [group]);
  }
  return groups;
}

const near = (a: Placed, b: Placed, reach: number) => Math.hypot(a.x - b.x, a.y - b.y) < reach;
