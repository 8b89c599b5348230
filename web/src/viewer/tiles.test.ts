import { describe as group, expect, it, vi } from "vitest";

import { until } from "@/tests/mounting";

import { cellsInSight, gridFor, TileStore } from "./tiles";

group("tiles of a large picture", () => {
  it("are as coarse as loses nothing at the zoom, and none where the base picture does", () => {
    expect(gridFor(0.1, 8192, 8192)).toBeNull();
    expect(gridFor(0.3, 8192, 4096)).toEqual({ level: 1, span: 1024, columns: 8, rows: 4 });
    expect(gridFor(1, 8192, 8192)).toEqual({ level: 0, span: 512, columns: 16, rows: 16 });
    expect(gridFor(5, 5000, 3000)).toEqual({ level: 0, span: 512, columns: 10, rows: 6 });
  });

  it("are those in sight, the middle first", () => {
    const grid = gridFor(1, 4096, 4096)!;
    const cells = cellsInSight(grid, { zoom: 1, left: -512, top: -1024 }, [1536, 512], [4096, 4096]);
    expect(cells).toEqual([
      [2, 2],
      [1, 2],
      [3, 2],
    ]);
    expect(cellsInSight(grid, { zoom: 1, left: 5000, top: 0 }, [800, 600], [4096, 4096])).toEqual([]);
  });

  it("follow the picture over its border when it is repeated, and when it is moved by half", () => {
    const grid = gridFor(1, 4096, 4096)!;
    const atSeam = { zoom: 1, left: -4096 + 100, top: 0 };
    const columns = (cells: [number, number][]) => [...new Set(cells.map(([column]) => column))].sort();
    expect(columns(cellsInSight(grid, atSeam, [200, 100], [4096, 4096], 2))).toEqual([0, 7]);
    const middle = { zoom: 1, left: -2048 + 100, top: 0 };
    const moved = cellsInSight(grid, middle, [200, 100], [4096, 4096], 1, true);
    expect(columns(moved)).toEqual([0, 7]);
    expect(new Set(moved.map(([, row]) => row))).toEqual(new Set([4]));
  });

  it("are fetched four at a time, kept, and the oldest gives its place away", async () => {
    const picture = {} as ImageBitmap;
    const placed: number[] = [];
    const fetchTile = vi.fn(async () => picture);
    const store = new TileStore(2, fetchTile, (layer) => placed.push(layer));
    const tiles = ["a", "b", "c"].map((name) => ({ name, address: `/${name}` }));
    store.want(tiles.slice(0, 2));
    await until(() => expect(placed).toEqual([0, 1]));
    expect(store.layer("a")).toBe(0); // looked at again, so that b is the oldest
    store.want(tiles);
    await until(() => expect(placed).toEqual([0, 1, 1]));
    expect(fetchTile).toHaveBeenCalledTimes(3);
    expect([store.layer("a"), store.layer("b"), store.layer("c")]).toEqual([0, null, 1]);
  });

  it("that are not wanted any more are dropped", async () => {
    const signals: AbortSignal[] = [];
    const never = (_: string, signal: AbortSignal) => {
      signals.push(signal);
      return new Promise<ImageBitmap>((_, fail) => signal.addEventListener("abort", () => fail(new Error())));
    };
    const store = new TileStore(8, never, () => undefined);
    store.want([{ name: "a", address: "/a" }]);
    store.want([]);
    expect(signals[0]!.aborted).toBe(true);
    store.stop();
  });
});
