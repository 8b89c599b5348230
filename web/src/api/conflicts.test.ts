import { beforeEach, describe, expect, it } from "vitest";

import { ApiError } from "./client";
import { changed, clash, forgetChanges, merged, type Wish } from "./conflicts";

interface Row {
  revision: number;
  name: string;
  metres: number | null;
}

/** A server with one row, which somebody else changes between what was seen and the change. */
function aServer(now: Row) {
  const state = { ...now };
  const asked: string[] = [];
  return {
    state,
    asked,
    put(change: Partial<Row>, headers: Record<string, string>): Promise<Row> {
      asked.push(headers["If-Match"] ?? "none");
      if (headers["If-Match"] !== String(state.revision))
        return Promise.reject(new ApiError(409, "changed meanwhile", { ...state }));
      Object.assign(state, change, { revision: state.revision + 1 });
      return Promise.resolve({ ...state });
    },
  };
}
function renaming(server: ReturnType<typeof aServer>, seen: Row, name: string): Wish<Row, Row> {
  return {
    key: "set 1",
    seen,
    revision: (one) => one.revision,
    same: (before, now) => before.name === now.name,
    about: "deck",
    mine: name,
    theirs: (now) => now.name,
    send: (headers) => server.put({ name }, headers),
  };
}
const SEEN: Row = { revision: 1, name: "deck", metres: null };

describe("changes of one thing by two people", () => {
  beforeEach(forgetChanges);

  it("go together where they do not touch", async () => {
    const server = aServer({ revision: 2, name: "deck", metres: 3 });
    await changed(renaming(server, SEEN, "pier"));
    expect(server.state).toEqual({ revision: 3, name: "pier", metres: 3 });
    expect(clash.value).toBeNull();
  });

  it.each([
    [true, "pier"],
    [false, "quay"],
  ])("are both shown where they touch, and the answer %s holds", async (mine, name) => {
    const server = aServer({ revision: 2, name: "quay", metres: null });
    const work = changed(renaming(server, SEEN, "pier"));
    await expect.poll(() => clash.value?.theirs).toBe("quay");
    expect(clash.value!.mine).toBe("pier");
    clash.value!.decide(mine);
    expect((await work) === null).toBe(!mine);
    expect(server.state.name).toBe(name);
  });

  it("of one's own follow each other without a question", async () => {
    const server = aServer(SEEN);
    await Promise.all([changed(renaming(server, SEEN, "a")), changed(renaming(server, SEEN, "b"))]);
    expect(server.state.name).toBe("b");
    expect(server.asked).toEqual(["1", "2"]);
  });

  it("that fail for another reason say so", async () => {
    const wish = renaming(aServer(SEEN), SEEN, "a");
    wish.send = () => Promise.reject(new ApiError(409, "another set is called a"));
    await expect(changed(wish)).rejects.toThrow("another set is called a");
  });
});

describe("two versions of a document", () => {
  const before = {
    title: "a",
    limits: { colour: 2 },
    rows: [
      { name: "r", text: "1" },
      { name: "s", text: "2" },
    ],
  };

  it("are put together where they do not touch", () => {
    const mine = {
      ...before,
      title: "b",
      rows: [
        { name: "r", text: "9" },
        { name: "s", text: "2" },
      ],
    };
    const theirs = { ...before, limits: { colour: 3 }, rows: [...before.rows, { name: "t", text: "3" }] };
    const both = merged(before, mine, theirs);
    expect(both.clashes).toEqual([]);
    expect(both.value).toEqual({
      title: "b",
      limits: { colour: 3 },
      rows: [
        { name: "r", text: "9" },
        { name: "s", text: "2" },
        { name: "t", text: "3" },
      ],
    });
  });

  it("tell the places that both changed", () => {
    const mine = { ...before, rows: [{ name: "r", text: "9" }] };
    const theirs = {
      ...before,
      title: "c",
      rows: [
        { name: "r", text: "8" },
        { name: "s", text: "2" },
      ],
    };
    const both = merged(before, mine, theirs);
    expect(both.clashes).toEqual([{ name: "rows › r › text", theirs: "8", mine: "9" }]);
    expect(both.value).toEqual({ title: "c", limits: { colour: 2 }, rows: [{ name: "r", text: "9" }] });
  });

  it("keep what one took out and the other left", () => {
    expect(merged<object>({ a: 1, b: 2 }, { a: 1 }, { a: 1, b: 2, c: 3 }).value).toEqual({ a: 1, c: 3 });
  });

  it("have lists without names changed as a whole", () => {
    expect(merged({ some: [1] }, { some: [1, 2] }, { some: [3] }).clashes).toEqual([
      { name: "some", theirs: [3], mine: [1, 2] },
    ]);
  });
});
