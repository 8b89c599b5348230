import { computed, ref, watch } from "vue";

import type { Finding, RoleInfo, SetDetail, TextureMap } from "@/api/types";
import { type Channel, newLook } from "@/viewer/look";
import { levelsOf } from "@/viewer/look";
import type { Other } from "@/viewer/usePictures";

import { channelsOf } from "./channels";

export type View = "flat" | "formats" | "surface" | "packed";

interface Around {
  set: () => SetDetail | null;
  id: () => number;
  roles: () => RoleInfo[];
  /** The map that the address asks for. */
  asked: number | null;
}

/** What is looked at on a set's page: which map, in which view, beside what. */
export function useSetPage({ set, id, roles, asked }: Around) {
  const picked = ref<number | null>(asked);
  const view = ref<View>("flat");
  const other = ref<Other | null>(null);
  const look = newLook();
  const shownFinding = ref<Finding | null>(null);

  /** Maps in the order of their roles, those in use first. */
  const maps = computed<TextureMap[]>(() => {
    const place = new Map(roles().map((role, index) => [role.key, index]));
    const all = set()?.id === id() ? set()!.maps : [];
    return [...all].sort(
      (a, b) => (place.get(a.role) ?? 99) - (place.get(b.role) ?? 99) || Number(b.in_use) - Number(a.in_use),
    );
  });
  const map = computed(() => maps.value.find((one) => one.id === picked.value) ?? maps.value[0] ?? null);
  const channels = computed(() => channelsOf(map.value));
  const levels = computed(() => levelsOf(map.value?.width ?? 1, map.value?.height ?? 1));
  /** A mip chain depends on the map and, for roughness, on the normal map beside it. */
  const chain = computed(() => {
    const normal = maps.value.find((one) => one.role === "normal" && one.in_use);
    return [map.value, normal].map((one) => one?.digest.slice(0, 16) ?? "").join("-");
  });
  const has = (channel: Channel) => !channels.value.find((one) => one.value === channel)?.off;

  watch(id, () => (picked.value = null));
  watch(
    () => map.value?.id,
    () => {
      shownFinding.value = null;
      other.value = null;
      if (!has(look.channel)) look.channel = "rgb";
      look.level = 0;
    },
  );

  function show(finding: Finding): void {
    if (finding.map) picked.value = finding.map;
    view.value = "flat";
    const letter = finding.place?.channel as Channel | undefined;
    // Wait for the map's own change to settle, then point at the place.
    queueMicrotask(() => {
      shownFinding.value = finding;
      if (letter && has(letter)) look.channel = letter;
    });
  }
  /** What a format or a misreading makes of the map, wiped against it. */
  function showOther(wanted: Other | null): void {
    other.value = wanted;
    look.level = 0;
    if (wanted && look.comparison === "none") look.comparison = "wipe";
  }
  function toggleView(wanted: View): void {
    view.value = view.value === wanted ? "flat" : wanted;
  }
  function toggleChannel(wanted: Channel): void {
    if (has(wanted)) look.channel = look.channel === wanted ? "rgb" : wanted;
  }
  return {
    picked,
    view,
    other,
    look,
    shownFinding,
    maps,
    map,
    channels,
    levels,
    chain,
    show,
    showOther,
    toggleView,
    toggleChannel,
  };
}
export type SetPage = ReturnType<typeof useSetPage>;
