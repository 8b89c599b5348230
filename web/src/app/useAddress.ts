import { computed, type WritableComputedRef } from "vue";
import { useRoute, useRouter } from "vue-router";

/** A value kept in the address, so that a view can be shared and comes back; its default is not written there. */
export function useAddress<T extends string>(name: string, standard: T): WritableComputedRef<T> {
  const route = useRoute();
  const router = useRouter();
  return computed({
    get: () => (typeof route.query[name] === "string" ? (route.query[name] as T) : standard),
    set: (value) => {
      const query = { ...route.query, [name]: value === standard ? undefined : value };
      void router.replace({ query });
    },
  });
}
