<script setup lang="ts">
import { useQueryClient } from "@tanstack/vue-query";
import Button from "primevue/button";
import Dialog from "primevue/dialog";
import InputText from "primevue/inputtext";
import RadioButton from "primevue/radiobutton";
import { ref, useId } from "vue";

import { client, data } from "@/api/client";
import { keys, useReadyTargets } from "@/api/queries";
import type { Project } from "@/api/types";
import { router } from "@/app/router";
import CheckField from "@/parts/fields/CheckField.vue";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import { named } from "@/parts/fields/options";
import { t } from "@/texts/start";

/** A new project: its name, and what it begins from. */
defineProps<{ projects: Project[] }>();
const open = defineModel<boolean>("open", { required: true });
const queries = useQueryClient();
const targets = useReadyTargets();
const id = useId();
const name = ref("");
const from = ref<"target" | "rules">("target");
const target = ref<string | null>("orm-y-minus");
const other = ref<string | null>(null);
const sample = ref(false);
const problem = ref("");
const busy = ref(false);

async function make(): Promise<void> {
  problem.value = "";
  busy.value = true;
  try {
    const made = await data(
      client.POST("/api/projects", {
        body: {
          name: name.value,
          target: from.value === "target" ? target.value : null,
          rules_from: from.value === "rules" ? other.value : null,
          sample: sample.value,
        },
      }),
    );
    await queries.invalidateQueries({ queryKey: keys.projects });
    await router.push({ name: sample.value ? "overview" : "intake", params: { slug: made.slug } });
  } catch (error) {
    problem.value = (error as Error).message;
    busy.value = false;
  }
}
</script>

<template>
  <Dialog v-model:visible="open" modal :header="t('newProject')" :style="{ width: '32rem' }">
    <form @submit.prevent="make">
      <label :for="`${id}-name`">{{ t("name") }}</label>
      <InputText :id="`${id}-name`" v-model="name" autofocus fluid required maxlength="120" />
      <fieldset>
        <legend>{{ t("beginWith") }}</legend>
        <div class="row">
          <RadioButton v-model="from" value="target" :input-id="`${id}-target`" />
          <label :for="`${id}-target`">{{ t("aTarget") }}</label>
          <ChoiceField
            v-model="target"
            :options="named(targets.data.value ?? [], 'name', 'title')"
            :label="t('target')"
            :disabled="from !== 'target'"
          />
        </div>
        <div v-if="projects.length" class="row">
          <RadioButton v-model="from" value="rules" :input-id="`${id}-rules`" />
          <label :for="`${id}-rules`">{{ t("theHouseRulesOf") }}</label>
          <ChoiceField
            v-model="other"
            :options="named(projects, 'slug', 'name')"
            :label="t('projectWhoseRulesAreCopied')"
            :placeholder="t('aProject')"
            :disabled="from !== 'rules'"
          />
        </div>
      </fieldset>
      <CheckField v-model="sample" :label="t('takeInTheSampleFolderTo')" />
      <p v-if="problem" class="error" role="alert">{{ problem }}</p>
      <Button
        type="submit"
        :label="t('makeProject')"
        :loading="busy"
        :disabled="!name.trim() || (from === 'rules' && !other)"
      />
    </form>
  </Dialog>
</template>

<style scoped>
form {
  display: grid;
  gap: var(--space-3);
  justify-items: start;
}
fieldset {
  border: 0;
  padding: 0;
  margin: 0;
  display: grid;
  gap: var(--space-2);
}
legend {
  padding: 0 0 var(--space-1);
}
</style>
