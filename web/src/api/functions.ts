/** The library's functions: chains with inputs that sheets call as one step. */
import { useQuery } from "@tanstack/vue-query";
import { computed, type MaybeRefOrGetter, toValue } from "vue";

import { t } from "@/texts/api";

import { client, data } from "./client";
import { keptDraft } from "./drafts";
import type { components } from "./generated/schema";
import { materialKeys, type MasterDocument } from "./materials";
import { useChange } from "./useChange";

type Schemas = components["schemas"];
export type FunctionRow = Schemas["FunctionRow"];
export type LibraryFunction = Schemas["FunctionOut"];
export type FunctionDocument = Schemas["FunctionDocument"];
export type FunctionInput = Schemas["FunctionInput"];
export type FunctionRead = Schemas["FunctionRead"];
export type DrawnOut = Schemas["DrawnOut"];
export type DrawOut = Schemas["DrawOut"];

export const functionKeys = {
  library: ["functions"] as const,
  one: (name: string) => ["functions", name] as const,
};

export const useFunctions = () =>
  useQuery({ queryKey: functionKeys.library, queryFn: () => data(client.GET("/api/functions")) });

export const useFunction = (name: MaybeRefOrGetter<string>) =>
  useQuery({
    queryKey: computed(() => functionKeys.one(toValue(name))),
    queryFn: () => data(client.GET("/api/functions/{name}", { params: { path: { name: toValue(name) } } })),
  });

/** A function as the studio reads it while it is edited; nothing is kept. */
export const readFunction = (document: FunctionDocument): Promise<FunctionRead> =>
  data(client.POST("/api/functions/read", { body: document }));

/** A function made of steps of a row, and the sheet that calls it; nothing is kept. */
export const drawOut = (given: DrawOut): Promise<DrawnOut> =>
  data(client.POST("/api/functions/draw-out", { body: given }));

/** A master's document that carries the newest version of a function; nothing is kept. */
export const intoSheet = (name: string, document: MasterDocument): Promise<MasterDocument> =>
  data(client.POST("/api/functions/{name}/into", { params: { path: { name } }, body: { document } }));

/** Every change to functions; each says what went wrong, and asks anew for what it changed. */
export function useFunctionChanges(slug: MaybeRefOrGetter<string>) {
  const { busy, change: make } = useChange(slug, () => [functionKeys.library, materialKeys.library]);
  const change = <T>(work: () => Promise<T>, said?: (made: T) => string | null) =>
    make(work, { said, undoable: false });
  const publish = (name: string, note: string) =>
    data(client.POST("/api/functions/{name}/publish", { params: { path: { name } }, body: { note } }));
  return {
    busy,
    create: (document: FunctionDocument) =>
      change(() => data(client.POST("/api/functions", { body: document }))),
    /** A new function with its first version. */
    make: (document: FunctionDocument, note: string) =>
      change(async () => {
        const made = await data(client.POST("/api/functions", { body: document }));
        return publish(made.name, note);
      }),
    publish: (name: string, note: string) =>
      change(
        () => publish(name, note),
        (made) => t("publishedAsVersion", { newest: made.newest }),
      ),
    keeper: (name: string, person: string, keeps: boolean) =>
      change(() => {
        const asked = { params: { path: { name, person } } };
        return data(
          keeps
            ? client.PUT("/api/functions/{name}/keepers/{person}", asked)
            : client.DELETE("/api/functions/{name}/keepers/{person}", asked),
        );
      }),
    /** seen: the function as it was when this was begun. What others wrote in other places of it goes along. */
    keepDraft: (name: string, document: FunctionDocument, seen?: LibraryFunction | null) =>
      change(() =>
        keptDraft(`function ${name}`, name, document, seen, (body, headers) =>
          data(client.PUT("/api/functions/{name}/draft", { params: { path: { name } }, body, headers })),
        ),
      ),
  };
}
