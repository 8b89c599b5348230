import { useQuery } from "@tanstack/vue-query";
import { flushPromises } from "@vue/test-utils";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { defineComponent, h } from "vue";

import { mounted } from "@/tests/mounting";

import { useEvents } from "./events";
import { keys } from "./queries";

class FakeSource {
  static last: FakeSource;
  onmessage: (event: { data: string }) => void = () => {};
  static readonly CLOSED = 2;
  static made = 0;
  onopen: () => void = () => {};
  onerror: () => void = () => {};
  readyState = 1;
  closed = false;
  constructor(readonly url: string) {
    FakeSource.last = this;
    FakeSource.made++;
  }
  close() {
    this.closed = true;
  }
}

/** Mount something that only asks. */
const running = (setup: () => void) =>
  mounted(
    defineComponent(() => {
      setup();
      return () => h("div");
    }),
  );

describe("events", () => {
  beforeEach(() => {
    vi.useFakeTimers();
    vi.stubGlobal("EventSource", FakeSource);
  });
  afterEach(() => {
    vi.useRealTimers();
    vi.unstubAllGlobals();
  });

  it("ask for everything where anything may have changed", async () => {
    let asked = 0;
    running(() => {
      useEvents("ferry");
      useQuery({ queryKey: keys.sets("ferry"), queryFn: () => ++asked });
    });
    await flushPromises();
    FakeSource.last.onmessage({ data: '{"kind":"all"}' });
    await flushPromises();
    expect(asked).toBe(2);
  });

  it("listen again after an answer that is none, later each time", async () => {
    const page = running(() => {
      useEvents("ferry");
    });
    const before = FakeSource.made;
    const fail = () => {
      FakeSource.last.readyState = FakeSource.CLOSED;
      FakeSource.last.onerror();
    };
    FakeSource.last.onerror();
    await vi.advanceTimersByTimeAsync(60_000);
    expect(FakeSource.made, "the browser takes it up by itself").toBe(before);
    fail();
    await vi.advanceTimersByTimeAsync(1000);
    expect(FakeSource.made).toBe(before + 1);
    fail();
    await vi.advanceTimersByTimeAsync(1000);
    expect(FakeSource.made).toBe(before + 1);
    await vi.advanceTimersByTimeAsync(1000);
    expect(FakeSource.made).toBe(before + 2);
    fail();
    page.unmount();
    await vi.advanceTimersByTimeAsync(60_000);
    expect(FakeSource.made).toBe(before + 2);
  });

  it("ask anew for what changed, once for many words, and for everything after a gap", async () => {
    const asked = { sets: 0, jobs: 0 };
    const page = running(() => {
      useEvents("ferry");
      useQuery({ queryKey: keys.sets("ferry"), queryFn: () => ++asked.sets });
      useQuery({ queryKey: keys.jobs("ferry"), queryFn: () => ++asked.jobs });
    });
    await flushPromises();
    expect(asked).toEqual({ sets: 1, jobs: 1 });
    expect(FakeSource.last.url).toBe("/api/projects/ferry/events");
    for (let n = 0; n < 20; n++) FakeSource.last.onmessage({ data: '{"kind":"sets"}' });
    await vi.advanceTimersByTimeAsync(400);
    expect(asked).toEqual({ sets: 2, jobs: 1 });
    FakeSource.last.onmessage({ data: '{"kind":"job"}' });
    await vi.advanceTimersByTimeAsync(400);
    expect(asked).toEqual({ sets: 2, jobs: 2 });
    FakeSource.last.onopen();
    await flushPromises();
    expect(asked, "what was just asked for is not asked for again at once").toEqual({ sets: 2, jobs: 2 });
    await vi.advanceTimersByTimeAsync(3000);
    expect(asked).toEqual({ sets: 3, jobs: 3 });
    FakeSource.last.onopen();
    await flushPromises();
    expect(asked).toEqual({ sets: 4, jobs: 4 });
    page.unmount();
    expect(FakeSource.last.closed).toBe(true);
  });
});
