import { QueryClient } from "@tanstack/vue-query";

/** Answers are shown as they are and never changed in place: watching each part of a thousand maps costs seconds. */
export const newQueryClient = (retry: number, staleTime: number) =>
  new QueryClient({ defaultOptions: { queries: { staleTime, retry, shallow: true } } });

/** What the page has been told. */
export const queryClient = newQueryClient(1, 30_000);
