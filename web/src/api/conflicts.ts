/**
 * Two people change one thing: each change says which state it was meant for. What does not touch goes together; where
 * both changed the same, both are shown, and the later one decides.
 */
import { shallowRef } from "vue";

import { t } from "@/texts/api";

import { ApiError } from "./client";

/** A picture of one state; regions: what is drawn over it, in shares of its sides. */
export interface Shown {
  url: string;
  regions?: { name: string; left: number; top: number; width: number; height: number }[];
}
/** Both states to be looked at, beside what is said of them: a picture of each, and values side by side. */
export interface Looks {
  pictures?: { theirs: Shown | null; mine: Shown | null };
  values?: { name: string; theirs: unknown; mine: unknown }[];
}
/** Both states, for somebody who decides which shall hold. */
export interface Clash extends Looks {
  about: string;
  theirs: string;
  mine: string;
  decide(mine: boolean): void;
}
/** What waits for a decision; the dialog of the page shows it. */
export const clash = shallowRef<Clash | null>(null);

export interface Wish<T, R> {
  /** What is changed, such as "map 12": changes of one thing go one after the other. */
  key: string;
  seen: T | undefined;
  revision(one: T): number;
  /** Whether what this change is about is the same in both states. */
  same(before: T, now: T): boolean;
  about: string;
  mine: string;
  theirs(now: T): string;
  looks?(now: T): Looks;
  send(headers: Record<string, string>): Promise<R>;
}

const LAST = new Map<string, unknown>();
const WAITING = new Map<string, Promise<unknown>>();
const MAX_ROUNDS = 8;

function decided<T>(wish: Wish<T, unknown>, now: T): Promise<boolean> {
  return new Promise((resolve) => {
    clash.value = {
      about: wish.about,
      theirs: wish.theirs(now),
      mine: wish.mine,
      ...wish.looks?.(now),
      decide(whether) {
        clash.value = null;
        resolve(whether);
      },
    };
  });
}

/** The newer of what was seen and what one's own last change made of it. */
function newer<T>(wish: Wish<T, unknown>): T | undefined {
  const made = LAST.get(wish.key) as T | undefined;
  if (!made || !wish.seen) return wish.seen;
  return wish.revision(made) > wish.revision(wish.seen) ? made : wish.seen;
}

async function settle<T, R>(wish: Wish<T, R>): Promise<R | null> {
  let seen = newer(wish as Wish<T, unknown>);
  for (let round = 0; ; round++) {
    try {
      const headers = seen ? { "If-Match": String(wish.revision(seen)) } : {};
      return await wish.send(headers as Record<string, string>);
    } catch (error) {
      const now = error instanceof ApiError ? (error.newest as T | undefined) : undefined;
      if (!now || !seen || round >= MAX_ROUNDS) throw error;
      if (!wish.same(seen, now) && !(await decided(wish as Wish<T, unknown>, now))) return null;
      seen = now;
    }
  }
}

/** Make a change; null when the other one's state was left as it is. */
export function changed<T, R>(wish: Wish<T, R>): Promise<R | null> {
  const before = WAITING.get(wish.key) ?? Promise.resolve();
  const work = before.catch(() => undefined).then(() => settle(wish));
  const kept = work.then((made) => {
    if (made) LAST.set(wish.key, made);
  });
  WAITING.set(
    wish.key,
    kept.catch(() => undefined),
  );
  return work;
}

/** Forget what was seen and made: for another person at the same page. */
export function forgetChanges(): void {
  LAST.clear();
  WAITING.clear();
  clash.value = null;
}

export const alike = (one: unknown, other: unknown): boolean =>
  JSON.stringify(one ?? null) === JSON.stringify(other ?? null);

type Json = Record<string, unknown>;
const isObject = (value: unknown): value is Json =>
  typeof value === "object" && value !== null && !Array.isArray(value);
const NAMES = ["name", "output", "licence", "part"];

/** Lists whose entries have names are looked at by name: their order is the later one's. */
function byName(value: unknown): Map<string, unknown> | null {
  if (!Array.isArray(value)) return null;
  const key = NAMES.find((name) => value.every((one) => isObject(one) && typeof one[name] === "string"));
  if (!key) return null;
  const found = new Map(value.map((one) => [(one as Json)[key] as string, one as unknown]));
  return found.size === value.length ? found : null;
}

/** One place of a document that two people changed, each in another way. */
export type Both = NonNullable<Looks["values"]>[number];

/**
 * What two people made of one document. clashes: the places that both changed, each in another way; there it is
 * ``mine`` that is returned.
 */
export function merged<T>(before: T, mine: T, theirs: T, place = ""): { value: T; clashes: Both[] } {
  if (alike(mine, theirs) || alike(before, theirs)) return { value: mine, clashes: [] };
  if (alike(before, mine)) return { value: theirs, clashes: [] };
  const clashes: Both[] = [];
  const parts = (old: (key: string) => unknown, my: Map<string, unknown>, their: Map<string, unknown>) => {
    const found = new Map<string, unknown>();
    for (const key of new Set([...my.keys(), ...their.keys()])) {
      const one = merged(old(key), my.get(key), their.get(key), place ? `${place} › ${key}` : key);
      clashes.push(...one.clashes);
      if (one.value !== undefined) found.set(key, one.value);
    }
    return found;
  };
  if (isObject(mine) && isObject(theirs)) {
    const old: Json = isObject(before) ? before : {};
    const found = parts((key) => old[key], new Map(Object.entries(mine)), new Map(Object.entries(theirs)));
    return { value: Object.fromEntries(found) as T, clashes };
  }
  const [my, their, old] = [byName(mine), byName(theirs), byName(before)];
  if (my && their && old) {
    return { value: [...parts((key) => old.get(key), my, their).values()] as T, clashes };
  }
  return { value: mine, clashes: [{ name: place || t("theDocument"), theirs, mine }] };
}
