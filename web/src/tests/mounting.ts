import { VueQueryPlugin } from "@tanstack/vue-query";
import { flushPromises, mount, type VueWrapper } from "@vue/test-utils";
import PrimeVue from "primevue/config";
import ConfirmationService from "primevue/confirmationservice";
import InputNumber from "primevue/inputnumber";
import Select from "primevue/select";
import ToastService from "primevue/toastservice";
import Tooltip from "primevue/tooltip";
import { vi } from "vitest";
import { type Component, type defineComponent, h } from "vue";
import { createMemoryHistory, createRouter } from "vue-router";

import { newQueryClient } from "@/api/queryClient";
import type { Finding, RoleInfo, SetDetail, TextureMap, Undecided } from "@/api/types";

const Empty = { render: () => h("div") };

const NAMES = [
  "projects",
  "sign-in",
  "accounts",
  "server",
  "glossary",
  "history",
  "overview",
  "intake",
  "habit",
  "sets",
  "set",
  "materials",
  "library",
  "models",
  "ground",
];

/** Mount with everything that the application installs. */
export function mounted(component: Component, props: Record<string, unknown> = {}, path = "/") {
  const history = createMemoryHistory();
  history.replace(path); // where the router begins when it is installed
  const router = createRouter({
    history,
    routes: [
      ...[...NAMES, "deliveries", "rules"].map((name) => ({
        name,
        path: `/${name}/:slug?/:${["set", "models", "ground"].includes(name) ? "id" : name === "rules" ? "part" : "kind"}?/:key?`,
        component: Empty,
      })),
      { path: "/:rest(.*)*", component: Empty },
    ],
  });
  const queries = newQueryClient(0, 0);
  return mount(component as ReturnType<typeof defineComponent>, {
    props: props as never,
    global: {
      plugins: [
        router,
        [VueQueryPlugin, { queryClient: queries }],
        PrimeVue,
        ToastService,
        ConfirmationService,
      ],
      directives: { tip: Tooltip },
    },
  });
}

/** What PrimeVue asks of a browser, and happy-dom does not have. */
export function standInForBrowser(): void {
  vi.stubGlobal("matchMedia", () => ({ matches: false, addEventListener() {}, removeEventListener() {} }));
  vi.stubGlobal(
    "ResizeObserver",
    class {
      observe() {}
      unobserve() {}
      disconnect() {}
    },
  );
}

/** Take a page away, with all that stood in for a browser or was watched. */
export function leave(page: VueWrapper): void {
  page.unmount();
  document.body.innerHTML = "";
  vi.unstubAllGlobals();
  vi.restoreAllMocks();
}

type Shown = Pick<VueWrapper, "findAllComponents" | "findAll">;
interface Choice {
  label?: string;
  value?: unknown;
  options?: Choice[];
}
/** Choose an option by what it is called, in the list with a label. */
export async function choose(shown: Shown, list: string, option: string): Promise<void> {
  const select = shown.findAllComponents(Select).find((one) => one.props("ariaLabel") === list);
  if (!select) throw new Error(`no list is called ${list}`);
  const options = (select.props("options") as Choice[]).flatMap((one) => one.options ?? [one]);
  const chosen = options.find((one) => one.label === option);
  if (!chosen) throw new Error(`${list} has ${options.map((one) => one.label).join(", ")}, not ${option}`);
  select.vm.$emit("update:modelValue", chosen.value);
  await flushPromises();
}
/** Give a number to the field with a label. */
export async function giveNumber(shown: Shown, label: string, value: number | null): Promise<void> {
  const field = shown.findAllComponents(InputNumber).find((one) => one.props("ariaLabel") === label);
  if (!field) throw new Error(`no number is called ${label}`);
  field.vm.$emit("update:modelValue", value);
  await flushPromises();
}
/** Type a text into the field with a label, and finish it. */
export async function giveText(shown: Shown, label: string, value: string): Promise<void> {
  const field = shown.findAll(`[aria-label="${label}"]`)[0];
  if (!field) throw new Error(`no text is called ${label}`);
  await field.trigger("focus");
  await field.setValue(value);
  await field.trigger("blur");
}
/** The button with a text or a label. */
export function button(shown: Shown, text: string) {
  const all = shown.findAll("button, a.p-button");
  const one = all.find((each) => each.text() === text || each.attributes("aria-label") === text);
  if (!one) throw new Error(`no button ${text}; there are ${all.map((each) => each.text()).join(", ")}`);
  return one;
}

const PATIENCE_MS = 60_000;
/** Wait until something holds: a machine may be slow and busy. */
export const until = <T>(holds: () => T | Promise<T>): Promise<T> =>
  vi.waitFor(holds, { timeout: PATIENCE_MS });

/** The answer to somebody who saw an older state: 409, with the newer one. */
export class Newer {
  constructor(readonly newest: unknown) {}
}

/** Answers by method and path; every call is kept. A function gets the parsed body, and the header If-Match. */
export function serve(answers: Record<string, unknown>) {
  const calls: { method: string; path: string; query: string; body: unknown }[] = [];
  vi.stubGlobal("fetch", async (asked: Request | string, more?: RequestInit) => {
    const request = asked instanceof Request ? asked : new Request(new URL(asked, "http://localhost"), more);
    const { pathname: path, search: query } = new URL(request.url);
    const text = await request.text();
    // What is sent of a form is a file, which nobody reads here.
    const isForm = (request.headers.get("Content-Type") ?? "").startsWith("multipart/");
    const body = text && !isForm ? (JSON.parse(text) as unknown) : null;
    const seen = request.headers.get("If-Match");
    calls.push({ method: request.method, path, query, body });
    const answer = answers[`${request.method} ${path}`];
    if (answer === undefined)
      return new Response(JSON.stringify({ detail: `no answer for ${path}` }), { status: 404 });
    const value =
      typeof answer === "function"
        ? await (answer as (body: unknown, seen: string | null, url: URL) => unknown)(
            body,
            seen,
            new URL(request.url),
          )
        : answer;
    if (value instanceof Newer)
      return new Response(JSON.stringify({ detail: "changed meanwhile", newest: value.newest }), {
        status: 409,
      });
    if (value instanceof Response) return value;
    if (ArrayBuffer.isView(value)) return new Response(value as BodyInit);
    return new Response(JSON.stringify(value), { headers: { "Content-Type": "application/json" } });
  });
  return calls;
}

export const ROLES: RoleInfo[] = [
  ["base_color", "Base colour", true],
  ["normal", "Normal", false],
  ["roughness", "Roughness", false],
  ["metallic", "Metallic", false],
  ["occlusion", "Occlusion", false],
  ["height", "Height", false],
  ["opacity", "Opacity", false],
  ["glossiness", "Glossiness", false],
].map(
  ([key, label, colour]) =>
    ({ key, label, colour, scalar: key !== "base_color" && key !== "normal" }) as RoleInfo,
);

export function aMap(role: string, more: Partial<TextureMap> = {}): TextureMap {
  return {
    id: 1,
    revision: 1,
    set: 1,
    role,
    file: `deck_${role}.png`,
    channel: null,
    layer: null,
    layers: [],
    came_as: `deck_${role}.png`,
    old_names: [],
    confidence: 0.9,
    why: "its name says so",
    said: [],
    by_hand: false,
    in_use: true,
    digest: "d".repeat(64),
    source: "s".repeat(64),
    width: 512,
    height: 512,
    source_width: 512,
    source_height: 512,
    channels: role === "base_color" || role === "normal" ? "rgb" : "y",
    bits: 8,
    recipe: [],
    worst: null,
    ...more,
  };
}

export function aFinding(more: Partial<Finding> = {}): Finding {
  return {
    id: 7,
    map: 1,
    check: "direction_against_name",
    title: "Green direction contradicts the name",
    severity: "error",
    role: "normal",
    file: "deck_normal.png",
    measure: -0.97,
    threshold: 0,
    message: "The name says Y+, the pixels say Y-.",
    said: null,
    remedy: { step: "flip_green", label: "Flip green" },
    place: { x: 64, y: 0, width: 64, height: 64, channel: "g" },
    waiver: null,
    marks: null,
    ...more,
  };
}

export function aSet(maps: TextureMap[], findings: Finding[] = [], more: Partial<SetDetail> = {}): SetDetail {
  return {
    id: 1,
    name: "deck",
    revision: 1,
    judged: true,
    maps,
    errors: findings.filter((one) => one.severity === "error").length,
    warnings: findings.filter((one) => one.severity === "warning").length,
    missing: [],
    waived: 0,
    metres: null,
    targets: [],
    regions: [],
    licence: "",
    credit: "",
    headline: findings[0]?.message ?? null,
    checks: findings.map((one) => one.check),
    findings,
    ...more,
  };
}

export function anUndecided(more: Partial<Undecided> = {}): Undecided {
  return {
    map: aMap("", { id: 9, set: null, file: "IMG_1.jpg", why: "its name says no role" }),
    suffix: "",
    readable: true,
    candidates: [
      { role: "base_color", channel: "", set: "deck", confidence: 0.6, why: "a coloured picture", said: [] },
    ],
    ...more,
  };
}

/** A drag's data, as far as the page uses it. */
export function dragged(map: number) {
  const kept = new Map([["application/x-map", String(map)]]);
  return {
    dataTransfer: {
      getData: (kind: string) => kept.get(kind) ?? "",
      setData: (kind: string, value: string) => kept.set(kind, value),
      effectAllowed: "",
    },
  };
}
