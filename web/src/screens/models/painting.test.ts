import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { nextTick, ref, shallowRef } from "vue";

import type { VertexStroke } from "@/api/models";
import { model, rope, slot } from "@/tests/models";
import { button, choose, leave, mounted, standInForBrowser } from "@/tests/mounting";

import type { ModelScene } from "./modelScene";
import SlotCard from "./SlotCard.vue";
import { useStagePointer } from "./useStagePointer";
import { useVertexPainting } from "./useVertexPainting";
import { LiveVertexStroke, type SurfacePoint, type VertexBrush } from "./vertexBrush";
import VertexPanel from "./VertexPanel.vue";

const BRUSH: VertexBrush = { channel: "green", radius: 1, strength: 0.5, falloff: 0, mirror: false };
const at = (x: number): SurfacePoint => [x, 0, 0, 0, 1, 0, 1];
/** Three points in a row along x, seen from above. */
const row = () => ({
  positions: [-2, 0, 0, 0, 0, 0, 2, 0, 0],
  normals: [0, 1, 0, 0, 1, 0, 0, 1, 0],
  colours: new Float32Array([0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0, 1]),
});

describe("a stroke on vertex colours", () => {
  it("touches its channel of the points within its radius", () => {
    const piece = row();
    expect(new LiveVertexStroke([piece], BRUSH).add(at(0))).toEqual([piece]);
    expect([...piece.colours]).toEqual([0, 0, 0, 1, 0, 0.5, 0, 1, 0, 0, 0, 1]);
  });
  it("passes over places that lie too near to the last one", () => {
    const live = new LiveVertexStroke([row()], BRUSH);
    for (const x of [0, 0.05, 0.1, 1]) live.add(at(x));
    expect(live.points.map(([x]) => x)).toEqual([0, 1]);
  });
  it("is laid on the other side too where that is wanted", () => {
    const piece = row();
    new LiveVertexStroke([piece], { ...BRUSH, mirror: true }).add(at(2));
    expect([piece.colours[1], piece.colours[5], piece.colours[9]]).toEqual([0.5, 0, 0.5]);
  });
  it("is sent with its slot, or without where all are painted", () => {
    const live = new LiveVertexStroke([row()], BRUSH);
    live.add(at(0.123456789));
    expect(live.stroke("deck")).toEqual({
      channel: "green",
      slot: "deck",
      points: [[0.1234568, 0, 0, 0, 1, 0, 1]],
      radius: 1,
      strength: 0.5,
      falloff: 0,
    });
    expect(live.stroke(null)).not.toHaveProperty("slot");
  });
});

/** A scene as far as painting asks for it. */
function aScene() {
  const piece = row();
  const scene = {
    pieces: vi.fn(() => [piece]),
    recolour: vi.fn(),
    showBrush: vi.fn(),
    touch: vi.fn((): SurfacePoint | null => at(0)),
    pick: vi.fn((): { part: string; slot: number } | null => ({ part: "hull", slot: 1 })),
  };
  return { scene, piece };
}
const painting = { brush: BRUSH, takes: false, slot: "rope" as string | null };

describe("painting on the mesh", () => {
  function hand(of: { strokes: number }, now = painting) {
    const { scene, piece } = aScene();
    const [draw, reload] = [vi.fn(), vi.fn()];
    const shown = ref(model({ strokes: of.strokes }));
    const made = useVertexPainting(
      shallowRef(scene as unknown as ModelScene),
      () => shown.value,
      () => now,
      draw,
      reload,
    );
    return { made, scene, piece, reload, shown };
  }

  it("lays a stroke down at once on the slot in hand, and keeps it", async () => {
    const { made, scene, piece, reload, shown } = hand({ strokes: 2 });
    made.begin(at(0), false);
    expect(scene.pieces).toHaveBeenCalledWith(rope.index);
    expect(piece.colours[5]).toBe(0.5);
    const sent: VertexStroke[] = [];
    await made.end((stroke) => {
      sent.push(stroke);
      return Promise.resolve({ model: model({ strokes: 3 }), spacing: null, wanted: null });
    });
    expect(sent[0]).toMatchObject({ slot: "rope", strength: 0.5 });
    shown.value = model({ strokes: 3 });
    await nextTick();
    expect(reload).not.toHaveBeenCalled();
  });
  it("takes away with the other key, and asks anew when it was not kept", async () => {
    const { made, reload } = hand({ strokes: 0 });
    made.begin(at(0), true);
    let sent: VertexStroke | null = null;
    await made.end((stroke) => ((sent = stroke), Promise.resolve(null)));
    expect(sent).toMatchObject({ strength: -0.5 });
    expect(reload).toHaveBeenCalledOnce();
  });
  it("asks anew where others painted meanwhile", async () => {
    const { made, reload } = hand({ strokes: 0 });
    made.begin(at(0), false);
    await made.end(() => Promise.resolve({ model: model({ strokes: 2 }), spacing: null, wanted: null }));
    expect(reload).toHaveBeenCalledOnce();
  });
  it("shows what others painted, or what was taken back", async () => {
    const { reload, shown } = hand({ strokes: 2 });
    shown.value = model({ strokes: 1 });
    await nextTick();
    expect(reload).toHaveBeenCalledOnce();
  });
});

describe("the pointer on a model", () => {
  function pointed(isPainting: boolean) {
    const { scene } = aScene();
    const canvas = {
      getBoundingClientRect: () => ({ left: 0, top: 0, width: 100, height: 100 }),
      setPointerCapture: vi.fn(),
    };
    const orbit = { onDown: vi.fn(), onMove: vi.fn(), onUp: vi.fn(), onWheel: vi.fn() };
    let live = false;
    const brush = {
      under: ref<SurfacePoint | null>(null),
      begin: vi.fn(() => void (live = true)),
      go: vi.fn(),
      end: vi.fn(() => ((live = false), Promise.resolve())),
      isLive: () => live,
    };
    const pick = vi.fn();
    const pointer = useStagePointer(
      ref(canvas) as never,
      shallowRef(scene as unknown as ModelScene),
      orbit,
      brush,
      () => isPainting,
      pick,
      () => Promise.resolve(null),
    );
    const event = (x: number, more = {}) =>
      ({ clientX: x, clientY: 50, button: 0, pointerId: 1, ...more }) as PointerEvent;
    return { pointer, event, scene, orbit, brush, pick };
  }

  it("picks a slot by a press that does not drag, and turns by one that does", () => {
    const { pointer, event, orbit, pick } = pointed(false);
    pointer.down(event(50));
    pointer.up(event(52));
    expect(pick).toHaveBeenCalledWith(1);
    pointer.down(event(50));
    pointer.move(event(80));
    pointer.up(event(80));
    expect(pick).toHaveBeenCalledOnce();
    expect(orbit.onMove).toHaveBeenCalledOnce();
  });
  it("paints where a brush is in hand, and turns beside the model", () => {
    const { pointer, event, scene, orbit, brush, pick } = pointed(true);
    pointer.down(event(50, { altKey: true }));
    expect(brush.begin).toHaveBeenCalledWith(at(0), true);
    pointer.move(event(60));
    expect(brush.go).toHaveBeenCalledWith(at(0));
    pointer.up(event(60));
    expect(brush.end).toHaveBeenCalledOnce();
    scene.touch.mockReturnValue(null);
    pointer.down(event(5));
    expect(orbit.onDown).toHaveBeenCalledOnce();
    expect(pick).not.toHaveBeenCalled();
    pointer.leave();
    expect(brush.under.value).toBeNull();
  });
  it("presses as hard as a pen does", () => {
    const { pointer, event, scene } = pointed(true);
    pointer.move(event(50, { pointerType: "pen", pressure: 0.3 }));
    expect(scene.touch).toHaveBeenLastCalledWith(0, 0, 0.3);
  });
});

describe("the panel of vertex colours", () => {
  let page: ReturnType<typeof mounted>;
  beforeEach(standInForBrowser);
  afterEach(() => leave(page));
  async function open(more: Record<string, unknown> = {}): Promise<void> {
    page = mounted(VertexPanel, {
      model: model({ painted: { green: 2 }, metres: 0.01, size: [10, 4, 5] }),
      slotInHand: null,
      coarse: null,
      brush: BRUSH,
      active: "",
      ...more,
    });
    await page.find("[data-test=vertex-colours] button").trigger("click");
  }

  it("turns painting on and off, and says on what", async () => {
    await open();
    await button(page, "Paint").trigger("click");
    expect(page.emitted("update:active")).toEqual([["add"]]);
    await page.setProps({ active: "add", slotInHand: slot() });
    expect(page.text()).toContain("On the slot M_hull alone.");
    await button(page, "Paint").trigger("click");
    expect(page.emitted("update:active")!.at(-1)).toEqual([""]);
  });
  it("paints another colour, and clears what was painted of one", async () => {
    await open();
    await button(page, "Clear 2 strokes").trigger("click");
    expect(page.emitted("clear")).toEqual([["green"]]);
    await choose(page, "Colour to paint", "Alpha");
    expect(page.emitted("update:brush")).toEqual([[{ ...BRUSH, channel: "alpha" }]]);
  });
  it("says where the mesh is too coarse, in metres", async () => {
    await open({ coarse: { spacing: 42, wanted: 5 } });
    expect(page.text()).toContain("its points lie 0.42 m apart, it wants 0.05 m");
  });
});

describe("a slot that wears an atlas", () => {
  let page: ReturnType<typeof mounted>;
  beforeEach(standInForBrowser);
  afterEach(() => leave(page));
  it("says which region it uses, and takes another, or all of the maps", async () => {
    const worn = { kind: "set" as const, id: 9, name: "boat atlas", region: "hull" };
    page = mounted(SlotCard, {
      slotOf: slot({ worn, regions: ["hull", "rope"] }),
      options: [{ value: "set 9", label: "boat atlas" }],
      proposal: null,
      shared: [],
      findings: [],
      chosen: false,
      mayChange: true,
    });
    await choose(page, "Region that M_hull uses", "rope");
    await choose(page, "Region that M_hull uses", "All of the maps");
    expect(page.emitted("assign")).toEqual([
      [{ kind: "set", id: 9, region: "rope" }],
      [{ kind: "set", id: 9, region: null }],
    ]);
  });
});
