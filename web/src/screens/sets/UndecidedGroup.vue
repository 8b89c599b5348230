<script setup lang="ts">
import Button from "primevue/button";
import { computed } from "vue";

import { useHabit, useTeaching } from "@/api/habit";
import type { RoleInfo, Undecided } from "@/api/types";
import PickAction from "@/parts/fields/PickAction.vue";
import Print from "@/parts/Print.vue";
import { meaningsOf } from "@/screens/habit/meanings";
import { t } from "@/texts/sets";

/** Undecided files whose names end alike: decided together, by saying what their suffix means. */
const props = defineProps<{
  slug: string;
  suffix: string;
  files: Undecided[];
  roles: RoleInfo[];
  mayChange: boolean;
}>();
const emit = defineEmits<{ open: [] }>();

const habit = useHabit(() => props.slug);
const { teach } = useTeaching(() => props.slug);
const label = (role: string) => props.roles.find((one) => one.key === role)?.label ?? role;
const readable = computed(() => props.files.filter((one) => one.readable).slice(0, 3));
/** The letters behind the mark, as the habit knows them. */
const line = computed(() => habit.data.value?.lines.find((one) => one.written === props.suffix));
const likely = computed(() => {
  const roles = props.files.flatMap((one) => one.candidates.filter((c) => !c.channel).map((c) => c.role));
  return [...new Set(roles)].slice(0, 3);
});
const meanings = computed(() => meaningsOf(props.roles).filter((one) => one.value !== "pack"));

function say(role: string): void {
  const known = line.value;
  const suffix = known?.suffix ?? props.suffix.replace(/[^\p{L}\p{N}]/gu, "").toLowerCase();
  teach.mutate([
    {
      suffix,
      role,
      where: (known?.where ?? "end") as "end",
      folder: known?.folder ?? "",
      channels: {},
    },
  ]);
}
</script>

<template>
  <li class="group" :data-suffix="suffix">
    <Print v-for="one in readable" :key="one.map.id" :slug="slug" :map="one.map" class="picture" />
    <div class="said">
      <div>
        <strong class="mono">{{ suffix }}</strong>
        {{ t("files", { count: files.length }) }}
        <Button :label="t('oneByOne')" text @click="emit('open')" />
      </div>
      <div class="soft">{{ files[0]!.map.why }}</div>
      <div v-if="mayChange" class="answers">
        <Button
          v-for="role in likely"
          :key="role"
          :label="t('allAre', { label: label(role).toLowerCase() })"
          outlined
          @click="say(role)"
        />
        <PickAction :label="t('anotherRole')" :options="meanings" @pick="say" />
      </div>
    </div>
  </li>
</template>

<style scoped>
.group {
  max-width: none;
  display: flex;
  align-items: start;
  gap: 6px;
  flex: none;
}
.picture {
  width: 76px;
  flex: none;
}
.said {
  width: 330px;
  font-size: 12px;
  margin-left: 4px;
}
.answers {
  display: flex;
  gap: 6px;
  flex-wrap: wrap;
  margin-top: 4px;
}
</style>
