<script setup lang="ts">
import Button from "primevue/button";
import { ref } from "vue";

import { useVersionChanges, useVersions, type Version, versionPicture } from "@/api/watched";
import { whenOf } from "@/app/when";
import FilePair from "@/parts/FilePair.vue";
import PairLook from "@/parts/PairLook.vue";
import StateView from "@/parts/StateView.vue";
import { t } from "@/texts/versions";

/** Contents that files got after they had been taken in: before and after, and the way back. */
const props = defineProps<{ slug: string; of: { set?: number; intake?: number }; mayChange: boolean }>();
const versions = useVersions(
  () => props.slug,
  () => props.of,
);
const changes = useVersionChanges(() => props.slug);
const large = ref<Version | null>(null);
const picture = (one: Version, of: "before" | "after", side?: number) =>
  versionPicture(props.slug, one, of, side);
const words = (one: Version) =>
  one.by
    ? t("fromWhom", { origin: one.origin, by: one.by, when: whenOf(one.at) })
    : t("fromWhere", { origin: one.origin, when: whenOf(one.at) });
const afterLabel = (one: Version) => (one.is_current ? t("now") : t("after"));
</script>

<template>
  <StateView :query="versions" :rows="2" height="6rem" :empty="!versions.data.value?.length">
    <template #empty>
      <p class="soft">{{ t("noVersions") }}</p>
    </template>
    <FilePair
      v-for="one in versions.data.value ?? []"
      :key="one.id"
      :path="one.file"
      :words="words(one)"
      :before="picture(one, 'before')"
      :after="picture(one, 'after')"
      :before-label="t('before')"
      :after-label="afterLabel(one)"
      @look="large = one"
    >
      <p v-if="of.intake && one.set">
        <RouterLink
          :to="{ name: 'set', params: { slug, id: one.set }, query: one.map ? { map: one.map } : {} }"
          >{{ one.set_name }}</RouterLink
        >
      </p>
      <span v-if="!one.is_current" class="soft">{{ t("notInUse") }}</span>
      <span v-else-if="mayChange && one.before">
        <Button
          outlined
          size="small"
          :label="t('bringBack')"
          :disabled="changes.busy.value"
          @click="changes.bringBack(one)"
        />
      </span>
    </FilePair>
    <PairLook
      v-if="large"
      :path="large.file"
      :before="picture(large, 'before', 2048)"
      :after="picture(large, 'after', 2048)"
      :before-label="t('before')"
      :after-label="afterLabel(large)"
      @close="large = null"
    />
  </StateView>
</template>
