import { afterEach, describe, expect, it, vi } from "vitest";

import { serve } from "@/tests/mounting";

import { type MasterDocument, readSheet } from "./materials";

afterEach(() => vi.unstubAllGlobals());
const sheet = (roughness: string) =>
  ({ format: "fair-texel/master", version: 1, name: "dull", inputs: { roughness } }) as MasterDocument;

describe("a sheet that was read before", () => {
  it("is at hand, and another is asked for", async () => {
    const calls = serve({ "POST /api/masters/read": { problem: null, sheet: null } });
    await readSheet(sheet("0.25"));
    await readSheet(sheet("0.25"));
    expect(calls).toHaveLength(1);
    await readSheet(sheet("0.5"));
    expect(calls).toHaveLength(2);
  });

  it("is asked for again after it could not be read", async () => {
    const calls = serve({});
    await expect(readSheet(sheet("0.75"))).rejects.toThrow();
    await expect(readSheet(sheet("0.75"))).rejects.toThrow();
    expect(calls).toHaveLength(2);
  });

  it("goes when many others were read since", async () => {
    const calls = serve({ "POST /api/masters/read": { problem: null, sheet: null } });
    for (let at = 0; at < 41; at++) await readSheet(sheet(`${at}`));
    await readSheet(sheet("40"));
    expect(calls).toHaveLength(41);
    await readSheet(sheet("0"));
    expect(calls).toHaveLength(42);
  });
});
