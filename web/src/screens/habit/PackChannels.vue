<script setup lang="ts">
import Button from "primevue/button";
import { computed, ref, watch } from "vue";

import type { RoleInfo } from "@/api/types";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import { named } from "@/parts/fields/options";
import { t } from "@/texts/habit";

/** Which role stands in which channel of a packed file. */
const props = defineProps<{ roles: RoleInfo[]; channels: Record<string, string>; name: string }>();
const emit = defineEmits<{ teach: [channels: Record<string, string>] }>();

const NOTHING = "nothing";
const held = ref<Record<string, string>>({});
watch(
  () => props.channels,
  (channels) => (held.value = { r: NOTHING, g: NOTHING, b: NOTHING, a: NOTHING, ...channels }),
  { immediate: true },
);
const options = computed(() => [
  { value: NOTHING, label: t("nothing") },
  ...named(
    props.roles.filter((role) => role.scalar),
    "key",
    "label",
  ),
]);
const chosen = computed(() => Object.entries(held.value).filter(([, role]) => role !== NOTHING));
const twice = computed(() => new Set(chosen.value.map(([, role]) => role)).size < chosen.value.length);
</script>

<template>
  <div class="pack">
    <label v-for="letter in ['r', 'g', 'b', 'a']" :key="letter">
      <span class="letter">{{ letter.toUpperCase() }}</span>
      <ChoiceField
        v-model="held[letter]"
        :options="options"
        :label="t('of', { letter: letter.toUpperCase(), name })"
      />
    </label>
    <Button
      :label="t('teach')"
      :disabled="!chosen.length || twice"
      @click="emit('teach', Object.fromEntries(chosen))"
    />
    <span v-if="twice" class="soft">{{ t("twoChannelsHoldTheSameRole") }}</span>
  </div>
</template>

<style scoped>
.pack {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 10px;
  margin-top: 6px;
}
label {
  display: flex;
  align-items: center;
  gap: 4px;
}
.letter {
  font-weight: 650;
}
</style>
