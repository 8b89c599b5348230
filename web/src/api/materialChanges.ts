/** Every change to masters and casts. */
import { useQueryClient } from "@tanstack/vue-query";
import { type MaybeRefOrGetter, toValue } from "vue";

import { t } from "@/texts/api";

import { client, data } from "./client";
import { alike, changed, type Looks } from "./conflicts";
import { keptDraft } from "./drafts";
import type { ImportedMaster } from "./exchange";
import { functionKeys } from "./functions";
import {
  type Adoption,
  type Cast,
  type Fill,
  type Impact,
  type Master,
  type MasterDocument,
  type ParameterValue,
  materialKeys,
} from "./materials";
import { pictureOf } from "./pictures";
import { useSeenSets } from "./seenSets";
import { useChange } from "./useChange";

type Slug = MaybeRefOrGetter<string>;

interface CastChange {
  changes?: Record<string, ParameterValue | null>;
  slots?: Record<string, Fill | null>;
  name?: string;
  casts?: number[];
}
/** What a cast has at the places that a change is about. */
function touched(cast: Cast, given: CastChange): Record<string, unknown> {
  const found: Record<string, unknown> = {};
  for (const name of Object.keys(given.changes ?? {})) found[name] = cast.values[name];
  for (const slot of Object.keys(given.slots ?? {})) {
    const fill = cast.fills.find((one) => one.slot === slot);
    found[slot] = fill ? [fill.set_name, fill.role] : null;
  }
  if (given.name !== undefined) found.name = cast.name;
  return found;
}
/** What a change wishes, in the same places. */
const wished = (given: CastChange): Record<string, unknown> => ({
  ...given.changes,
  ...given.slots,
  ...(given.name === undefined ? {} : { name: given.name }),
});
type AdoptionNow = Pick<Adoption, "master" | "number" | "pinned" | "revision">;
/** What two people who change the use of one master are told. */
const adoptionWish = (seen: Adoption) => ({
  // What an update answers is no adoption: own changes do not follow each other by it.
  key: `adoption ${seen.master} ${seen.revision}`,
  seen: seen as AdoptionNow,
  revision: (one: AdoptionNow) => one.revision,
  same: () => false,
  about: seen.title,
  theirs: (now: AdoptionNow) =>
    now.pinned
      ? t("versionPinned", { number: now.number ?? "" })
      : t("versionNumber", { number: now.number ?? "" }),
});

/** Changes to masters and casts; each says what went wrong, and asks anew for what it changed. */
export function useMaterialChanges(slug: Slug) {
  const queries = useQueryClient();
  const path = () => ({ slug: toValue(slug) });
  const { busy, change: make } = useChange(slug, () => [
    materialKeys.project(toValue(slug)),
    materialKeys.library,
    // Which masters carry a function.
    functionKeys.library,
  ]);
  const change = <T>(work: () => Promise<T>, said?: (made: T) => string | null, undoable = true) =>
    make(work, { said, undoable });
  const castSeen = (pk: number) =>
    queries.getQueryData<Cast>([...materialKeys.project(toValue(slug)), pk]) ?? undefined;

  const { setSeen } = useSeenSets(slug);
  const inSlot = (fill: { set: number; role?: string | null } | null | undefined) => {
    const set = fill ? setSeen(fill.set) : undefined;
    const map = set?.maps.find((one) => one.role === (fill?.role ?? "")) ?? set?.maps[0];
    return map ? { url: pictureOf(toValue(slug), map, { side: 512 }) } : null;
  };
  /** The maps in the first slot that a change is about. */
  function slotPictures(now: Cast, given: CastChange): Looks {
    const [slot] = Object.keys(given.slots ?? {});
    if (!slot) return {};
    const theirs = inSlot(now.fills.find((one) => one.slot === slot));
    return { pictures: { theirs, mine: inSlot(given.slots![slot]) } };
  }
  function valuesOf(now: Cast, given: CastChange): Looks["values"] {
    const words = (value: unknown): unknown => {
      if (value === null || value === undefined) return t("asInherited");
      const fill = value as Fill;
      return typeof value === "object" && "set" in value
        ? [setSeen(fill.set)?.name ?? "", fill.role ?? ""]
        : value;
    };
    const [theirs, mine] = [touched(now, given), wished(given)];
    return Object.keys(mine).map((name) => ({ name, theirs: words(theirs[name]), mine: words(mine[name]) }));
  }
  return {
    busy,
    newMaster: (document: MasterDocument) =>
      change(() => data(client.POST("/api/masters", { body: document }))),
    beginMaster: (title: string, ready: string) =>
      change(() => data(client.POST("/api/masters/begin", { body: { title, ready } })), undefined, false),
    takeIn: (read: ImportedMaster) =>
      change(
        () =>
          data(
            client.POST("/api/projects/{slug}/materials/import", {
              params: { path: path() },
              body: { document: read.document, casts: read.casts, note: "" },
            }),
          ),
        (made) => t("castsOfAdded", { count: made.casts.length, master: made.master }),
      ),
    /** seen: the master as it was when this was begun. What others wrote in other places of it since goes along. */
    keepDraft: (name: string, document: MasterDocument, seen?: Master | null) =>
      change(() =>
        keptDraft(`master ${name}`, name, document, seen, (body, headers) =>
          data(client.PUT("/api/masters/{name}/draft", { params: { path: { name } }, body, headers })),
        ),
      ),
    keeper: (name: string, person: string, keeps: boolean) =>
      change(() => {
        const asked = { params: { path: { name, person } } };
        return data(
          keeps
            ? client.PUT("/api/masters/{name}/keepers/{person}", asked)
            : client.DELETE("/api/masters/{name}/keepers/{person}", asked),
        );
      }),
    publish: (name: string, note: string) =>
      change(
        () =>
          data(client.POST("/api/masters/{name}/publish", { params: { path: { name } }, body: { note } })),
        (made) => t("publishedAsVersion", { newest: made.newest }),
        false,
      ),
    newCast: (name: string, from: { master?: string; parent?: number }) =>
      change(() =>
        data(
          client.POST("/api/projects/{slug}/materials", {
            params: { path: path() },
            body: { name, master: from.master ?? null, parent: from.parent ?? null },
          }),
        ),
      ),
    changeCast: (pk: number, given: CastChange) =>
      change(() =>
        changed<Cast, Cast>({
          key: `cast ${pk}`,
          seen: castSeen(pk),
          revision: (one) => one.revision,
          same: (before, now) => alike(touched(before, given), touched(now, given)),
          about: castSeen(pk)?.name ?? t("theCast"),
          mine: t("yourValues", { count: Object.keys(wished(given)).length }),
          theirs: (now) => t("theirValues", { count: Object.keys(touched(now, given)).length }),
          looks: (now) => ({ ...slotPictures(now, given), values: valuesOf(now, given) }),
          send: (headers) =>
            data(
              client.PATCH("/api/projects/{slug}/materials/{pk}", {
                params: { path: { ...path(), pk } },
                body: { changes: {}, slots: {}, casts: [], seen: {}, ...given },
                headers,
              }),
            ),
        }),
      ),
    fillCast: (pk: number, set: number, layer = "") =>
      change(
        () =>
          data(
            client.POST("/api/projects/{slug}/materials/{pk}/fill", {
              params: { path: { ...path(), pk } },
              body: { set, layer },
            }),
          ),
        (cast) => t("slotsFilled", { count: cast.fills.filter((one) => one.set === set).length }),
      ),
    stack: (title: string, casts: number[]) =>
      change(() =>
        data(
          client.POST("/api/projects/{slug}/materials/stack", {
            params: { path: path() },
            body: { title, casts },
          }),
        ),
      ),
    deleteCast: (pk: number) =>
      change(
        () =>
          data(client.DELETE("/api/projects/{slug}/materials/{pk}", { params: { path: { ...path(), pk } } })),
        () => t("castDeleted"),
      ),
    impact: (name: string, number: string, renames: Record<string, string>) =>
      change(() =>
        data(
          client.POST("/api/projects/{slug}/materials/masters/{name}/impact", {
            params: { path: { ...path(), name } },
            body: { number, renames },
          }),
        ),
      ),
    /** seen: the adoption as it was when the version was looked at. */
    adopt: (seen: Adoption, number: string, renames: Record<string, string> = {}) =>
      change(
        () =>
          changed<AdoptionNow, Impact>({
            ...adoptionWish(seen),
            mine: t("versionNumber", { number }),
            send: (headers) =>
              data(
                client.PUT("/api/projects/{slug}/materials/masters/{name}", {
                  params: { path: { ...path(), name: seen.master } },
                  body: { number, renames },
                  headers,
                }),
              ),
          }),
        (impact) => (impact ? t("updatedToVersion", { number: impact.number }) : null),
      ),
    pin: (seen: Adoption, pinned: boolean) =>
      change(() =>
        changed<AdoptionNow, true>({
          ...adoptionWish(seen),
          mine: pinned ? t("stayWithTheVersionInUse") : t("followNewerVersions"),
          send: (headers) =>
            data(
              client.PUT("/api/projects/{slug}/materials/masters/{name}/pinned", {
                params: { path: { ...path(), name: seen.master } },
                body: { pinned },
                headers,
              }),
            ).then(() => true as const),
        }),
      ),
  };
}
