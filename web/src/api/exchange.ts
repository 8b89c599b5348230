/** Casts written in open formats, and masters read from files. */
import { useQuery } from "@tanstack/vue-query";
import { computed, type MaybeRefOrGetter, toValue } from "vue";

import { client, data } from "./client";
import type { components } from "./generated/schema";
import { keys } from "./queries";

type Schemas = components["schemas"];
type Slug = MaybeRefOrGetter<string>;
export type Export = Schemas["ExportFacts"];
export type ExportOrder = Schemas["ExportIn"];
export type ImportedMaster = Schemas["ImportedOut"];
export type TakenIn = Schemas["TakenInOut"];

export const useExports = (slug: Slug) =>
  useQuery({
    queryKey: computed(() => [...keys.project(toValue(slug)), "exports"]),
    queryFn: () =>
      data(
        client.GET("/api/projects/{slug}/materials/exports", { params: { path: { slug: toValue(slug) } } }),
      ),
  });

export const orderExport = (slug: string, body: ExportOrder) =>
  data(client.POST("/api/projects/{slug}/materials/exports", { params: { path: { slug } }, body }));

export const exportFile = (slug: string, id: number) => `/api/projects/${slug}/materials/exports/${id}/file`;

/** Masters in a file; nothing is kept. */
export const readMaterialFile = (file: File): Promise<ImportedMaster[]> =>
  data(
    client.POST("/api/masters/import", {
      // The generated type takes a file for a text.
      body: { file: file as unknown as string },
      bodySerializer: () => {
        const form = new FormData();
        form.append("file", file);
        return form;
      },
    }),
  );
