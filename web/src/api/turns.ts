/** What one hand does to one thing after the other: each on top of what the one before made, and no question about oneself. */

interface Revised {
  id: number;
  revision: number;
}

/** Do work on a thing when its turn comes: as the page shows it, or as the hand's own last change left it. */
export function turns<T extends Revised>() {
  const own = new Map<number, T>();
  let last: Promise<unknown> = Promise.resolve();
  return (one: T, work: (now: T) => Promise<T>): Promise<T> => {
    const done = last.then(async () => {
      const known = own.get(one.id);
      const made = await work(known && known.revision > one.revision ? known : one);
      own.set(one.id, made);
      return made;
    });
    last = done.catch(() => {});
    return done;
  };
}

/** The state of a thing that a change is meant for, as the header If-Match says it. */
export const meantFor = (now: Revised): string => `"${now.revision}"`;
