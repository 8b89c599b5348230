import { computed } from "vue";

import { useCatalogue } from "./queries";

/** Every role that a map can have, without a project. */
export function useSetRoles() {
  const catalogue = useCatalogue();
  return computed(() => catalogue.data.value?.roles ?? []);
}
