import { mount } from "@vue/test-utils";
import { describe, expect, it, vi } from "vitest";
import { defineComponent, h } from "vue";

import { keyGroups, nameOf, useKeys } from "./keys";

const press = (key: string, more: KeyboardEventInit = {}) =>
  window.dispatchEvent(new KeyboardEvent("keydown", { key, cancelable: true, ...more }));

function screen(title: string, key: string, run: () => void) {
  return defineComponent({
    setup() {
      useKeys(title, [{ key, does: title, run }]);
      return () => h("div");
    },
  });
}

describe("keys", () => {
  it("have one name each", () => {
    expect(nameOf(new KeyboardEvent("keydown", { key: "z" }))).toBe("Z");
    expect(nameOf(new KeyboardEvent("keydown", { key: "Z", shiftKey: true }))).toBe("Shift+Z");
    expect(nameOf(new KeyboardEvent("keydown", { key: "$", code: "Digit4", shiftKey: true }))).toBe(
      "Shift+4",
    );
    expect(nameOf(new KeyboardEvent("keydown", { key: "?", code: "Slash", shiftKey: true }))).toBe("?");
    expect(nameOf(new KeyboardEvent("keydown", { key: " " }))).toBe("Space");
  });

  it("hold while their screen is shown, the innermost first", () => {
    const outer = vi.fn();
    const inner = vi.fn();
    const frame = mount(screen("frame", "D", outer));
    const bench = mount(screen("bench", "D", inner));
    press("d");
    expect([outer.mock.calls.length, inner.mock.calls.length]).toEqual([0, 1]);
    bench.unmount();
    press("d");
    expect([outer.mock.calls.length, inner.mock.calls.length]).toEqual([1, 1]);
    press("d", { ctrlKey: true });
    expect(outer).toHaveBeenCalledTimes(1);
    frame.unmount();
    expect(keyGroups).toHaveLength(0);
  });

  it("leave Escape to what lies over the page", () => {
    const back = vi.fn();
    const page = mount(screen("page", "Escape", back));
    document.body.insertAdjacentHTML("beforeend", '<div class="p-popover"></div>');
    press("Escape");
    expect(back).not.toHaveBeenCalled();
    document.querySelector(".p-popover")!.remove();
    press("Escape");
    expect(back).toHaveBeenCalledTimes(1);
    page.unmount();
  });
});
