import { describe, expect, it } from "vitest";
import { nextTick, ref } from "vue";

import type { Rule } from "@/api/rules";
import type { TextureMap } from "@/api/types";
import { useDraft } from "@/screens/set/useDraft";
import { aMap } from "@/tests/mounting";

import { useEdited } from "./useEdited";

const rule = (number: number, document: object, name = "house") =>
  ({ name, title: "House", number, own: true, origin: null, document }) as unknown as Rule;

describe("a rule that is edited", () => {
  it("follows newer versions while nobody edits it", async () => {
    const now = ref(rule(1, { title: "a" }));
    const { document, dirty, seen } = useEdited<{ title: string }>(() => now.value);
    now.value = rule(2, { title: "b" });
    await nextTick();
    expect([document.value, dirty.value, seen.value?.number]).toEqual([{ title: "b" }, false, 2]);
  });

  it("saves what is being edited when somebody else saves a version", async () => {
    const now = ref(rule(1, { title: "a" }));
    const { document, dirty, seen, set, discard } = useEdited<{ title: string }>(() => now.value);
    set({ title: "mine" });
    now.value = rule(2, { title: "theirs" });
    await nextTick();
    expect([document.value, dirty.value, seen.value?.number]).toEqual([{ title: "mine" }, true, 1]);
    discard();
    expect([document.value, seen.value?.number]).toEqual([{ title: "theirs" }, 2]);
  });

  it("begins anew for another rule", async () => {
    const now = ref(rule(1, { title: "a" }));
    const { document, set } = useEdited<{ title: string }>(() => now.value);
    set({ title: "mine" });
    now.value = rule(1, { title: "other" }, "second");
    await nextTick();
    expect(document.value).toEqual({ title: "other" });
  });

  it("takes keys out", () => {
    const { document, set } = useEdited<{ title?: string; help?: string }>(() =>
      rule(1, { title: "a", help: "b" }),
    );
    set({ help: undefined });
    expect(document.value).toEqual({ title: "a" });
  });
});

describe("steps that are tried", () => {
  const step = (name: string) => ({ step: name, label: name, off: false, options: {} });
  const map = (more: Partial<TextureMap>) => aMap("normal", more);

  it("stay when somebody else saves other steps meanwhile, with the state that they were begun from", async () => {
    const now = ref<TextureMap | null>(map({ revision: 1 }));
    const draft = useDraft(
      () => "ferry",
      () => now.value,
    );
    draft.steps.value = [{ step: "invert" }];
    now.value = map({ revision: 2, recipe: [step("flip_green")] });
    await nextTick();
    expect(draft.steps.value.map((one) => one.step)).toEqual(["invert"]);
    expect(draft.seen.value?.revision).toBe(1);
    draft.discard();
    expect(draft.steps.value.map((one) => one.step)).toEqual(["flip_green"]);
  });

  it("follow what is kept while nobody tries anything", async () => {
    const now = ref<TextureMap | null>(map({ revision: 1 }));
    const draft = useDraft(
      () => "ferry",
      () => now.value,
    );
    now.value = map({ revision: 2, recipe: [step("flip_green")] });
    await nextTick();
    expect(draft.steps.value.map((one) => one.step)).toEqual(["flip_green"]);
    expect(draft.seen.value?.revision).toBe(2);
  });
});

describe("a rule that is being kept", () => {
  it("takes in what others kept beside it, and leaves what is edited meanwhile", async () => {
    const now = ref(rule(1, { title: "a", limits: 1 }));
    const { document, dirty, save, seen, set } = useEdited<{ title: string; limits: number; help?: string }>(
      () => now.value,
    );
    set({ title: "mine" });
    await save(async () => {
      now.value = rule(3, { title: "mine", limits: 2 });
      await nextTick();
      set({ help: "edited while it was kept" });
      return now.value;
    });
    expect(document.value).toEqual({ title: "mine", limits: 2, help: "edited while it was kept" });
    expect([dirty.value, seen.value?.number]).toEqual([true, 3]);
  });

  it("stays edited where the other state was left", async () => {
    const { document, save, set } = useEdited<{ title: string }>(() => rule(1, { title: "a" }));
    set({ title: "mine" });
    await save(() => Promise.resolve(null));
    expect(document.value).toEqual({ title: "mine" });
  });
});
