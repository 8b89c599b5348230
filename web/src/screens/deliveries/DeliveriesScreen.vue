<script setup lang="ts">
import { useQueryClient } from "@tanstack/vue-query";
import Button from "primevue/button";
import ProgressBar from "primevue/progressbar";
import { computed, ref, watch } from "vue";
import { useRoute } from "vue-router";

import { client, data } from "@/api/client";
import { keys, useDeliveries, useJobs, usePlan, useProject, useSets, useTargets } from "@/api/queries";
import type { Delivery } from "@/api/types";
import { useKeys } from "@/app/keys";
import Mark from "@/parts/Mark.vue";
import { stateOf } from "@/screens/sets/matrix";

import PlanList from "./PlanList.vue";

const props = defineProps<{ slug: string }>();
const route = useRoute();
const queries = useQueryClient();
const project = useProject(() => props.slug);
const setList = useSets(() => props.slug);
const targets = useTargets(() => props.slug);
const deliveries = useDeliveries(() => props.slug);
const jobs = useJobs(() => props.slug);

const asked = String(route.query.sets ?? "")
  .split(",")
  .map(Number)
  .filter(Boolean);
const left = ref(new Set<number>());
const picked = ref(false);
const chosenTarget = ref("");
const problem = ref("");
const busy = ref(false);
const target = computed(() => chosenTarget.value || (project.data.value?.target ?? ""));
const sets = computed(() => setList.data.value?.sets ?? []);
/** Named like maps, but in no set: what is delivered lacks them. */
const undecided = computed(() => (setList.data.value?.undecided ?? []).filter((one) => one.suffix));
const mayDeliver = computed(() => (project.data.value?.right ?? "look") !== "look");

// Sets with errors wait for somebody to say so; those asked for on the sets are taken as asked.
watch(
  sets,
  (all) => {
    if (picked.value || !all.length) return;
    picked.value = true;
    left.value = new Set(
      all.filter((one) => (asked.length ? !asked.includes(one.id) : one.errors > 0)).map((one) => one.id),
    );
  },
  { immediate: true },
);
const going = computed(() => sets.value.filter((one) => !left.value.has(one.id)).map((one) => one.id));
const plan = usePlan(() => props.slug, target, going);
/** Names of the sets that the plan writes something of; those it has to leave out are told with it. */
const written = computed(() => new Set((plan.data.value?.files ?? []).map((file) => file.set)));
const withErrors = computed(
  () =>
    sets.value.filter((one) => one.errors && !left.value.has(one.id) && written.value.has(one.name)).length,
);
const counts = computed(() => {
  const files = plan.data.value?.files ?? [];
  const of = (status: string) => files.filter((file) => file.status === status).length;
  return { all: files.length, fresh: of("new"), changed: of("changed"), same: of("unchanged") };
});

function toggle(id: number): void {
  const next = new Set(left.value);
  if (!next.delete(id)) next.add(id);
  left.value = next;
}

async function deliver(): Promise<void> {
  if (!mayDeliver.value || !going.value.length || busy.value) return;
  busy.value = true;
  problem.value = "";
  try {
    const path = { slug: props.slug };
    await data(
      client.POST("/api/projects/{slug}/deliveries", {
        params: { path },
        body: { target: target.value, sets: going.value },
      }),
    );
    await queries.invalidateQueries({ queryKey: keys.deliveries(props.slug) });
  } catch (error) {
    problem.value = (error as Error).message;
  } finally {
    busy.value = false;
  }
}

// A finished delivery changes what is new and what is not.
const finished = computed(() => (deliveries.data.value ?? []).filter((one) => one.state === "done").length);
watch(finished, () => void queries.invalidateQueries({ queryKey: [...keys.sets(props.slug), "plan"] }));

const jobOf = (delivery: Delivery) => jobs.data.value?.find((job) => job.id === delivery.job);
const share = (delivery: Delivery) => {
  const job = jobOf(delivery);
  return job?.total ? Math.round((100 * job.done) / job.total) : 0;
};
async function cancel(delivery: Delivery): Promise<void> {
  if (delivery.job === null) return;
  const path = { slug: props.slug, pk: delivery.job };
  await data(client.POST("/api/projects/{slug}/jobs/{pk}/cancel", { params: { path } }));
  await deliveries.refetch();
}
const running = (one: Delivery) => one.state === "waiting" || one.state === "running";
const when = (text: string) => new Date(text).toLocaleString([], { dateStyle: "medium", timeStyle: "short" });
const summary = (one: Delivery) =>
  Object.entries(one.counts)
    .filter(([, count]) => count)
    .map(([status, count]) => `${count} ${status}`)
    .join(", ");
useKeys("Deliveries", [{ key: "Enter", does: "Deliver", run: () => void deliver() }]);
</script>

<template>
  <div class="deliveries">
    <aside class="scroll" aria-label="What goes">
      <h2>Target</h2>
      <label v-for="one in targets.data.value" :key="one.name" class="target">
        <input type="radio" name="target" :checked="one.name === target" @change="chosenTarget = one.name" />
        <span>
          {{ one.title }}<br /><span class="soft mono">{{ one.name }}</span>
        </span>
      </label>
      <h2>Sets</h2>
      <label v-for="one in sets" :key="one.id" class="set">
        <input type="checkbox" :checked="!left.has(one.id)" @change="toggle(one.id)" />
        <span>{{ one.name }}</span>
        <Mark :severity="stateOf(one)" />
      </label>
    </aside>

    <section class="plan" aria-label="What will be written">
      <header>
        <h2>What will be written</h2>
        <span v-if="plan.data.value && going.length" class="soft">
          {{ counts.all }} files: {{ counts.fresh }} new, {{ counts.changed }} changed,
          {{ counts.same }} unchanged
        </span>
        <Button
          :label="`Deliver ${going.length} ${going.length === 1 ? 'set' : 'sets'}`"
          :disabled="!going.length || !mayDeliver || !counts.all"
          :loading="busy"
          @click="deliver"
        />
      </header>
      <p v-if="withErrors" class="caution">
        <Mark severity="error" /> {{ withErrors }} of them {{ withErrors === 1 ? "has" : "have" }} errors.
        They are delivered as they are.
      </p>
      <p v-if="undecided.length" class="caution">
        <Mark severity="warning" /> {{ undecided.length }}
        {{ undecided.length === 1 ? "file is" : "files are" }} in no set and will not be delivered:
        <span class="mono">{{
          undecided
            .slice(0, 3)
            .map((one) => one.map.file)
            .join(", ")
        }}</span>{{ undecided.length > 3 ? " …" : "" }}
        <RouterLink :to="{ name: 'habit', params: { slug } }">Say what their names mean</RouterLink>
      </p>
      <p v-if="problem || plan.error.value" class="problem" role="alert">
        {{ problem || plan.error.value?.message }}
      </p>
      <p v-if="!going.length" class="soft">Choose at least one set on the left.</p>
      <div v-else class="scroll list">
        <PlanList v-if="plan.data.value" :plan="plan.data.value" />
        <p v-else class="soft">Working out what goes into each file …</p>
      </div>
    </section>

    <section class="past scroll" aria-label="Deliveries so far">
      <h2>Delivered</h2>
      <p v-if="!deliveries.data.value?.length" class="soft">
        Nothing yet. Every delivery gets a number and a folder of its own; none is ever overwritten.
      </p>
      <article
        v-for="one in deliveries.data.value"
        :key="one.number"
        :data-delivery="one.number"
        :data-state="one.state"
      >
        <h3>#{{ one.number }} {{ one.title }}</h3>
        <div class="soft">{{ when(one.created) }}, {{ one.by ?? "someone" }}, {{ one.sets }} sets</div>
        <template v-if="running(one)">
          <ProgressBar :value="share(one)" :show-value="false" style="height: 6px" />
          <div class="line">
            <span class="soft mono">{{ jobOf(one)?.message || one.state }}</span>
            <button class="plain link" @click="cancel(one)">Cancel</button>
          </div>
        </template>
        <template v-else-if="one.state === 'done'">
          <div>{{ summary(one) }}</div>
          <div v-for="left_out in one.problems" :key="left_out" class="problem">Left out: {{ left_out }}</div>
          <div class="mono folder">{{ one.folder }}</div>
          <a :href="`/api/projects/${slug}/deliveries/${one.number}/zip`" download>Download zip</a>
        </template>
        <div v-else class="problem">
          {{ one.state === "cancelled" ? "Cancelled; nothing was written." : one.message }}
        </div>
      </article>
    </section>
  </div>
</template>

<style scoped>
.deliveries {
  display: grid;
  grid-template-columns: 250px minmax(0, 1fr) 290px;
  height: 100%;
}
aside,
.past {
  background: var(--sheet);
  padding: 12px;
  display: grid;
  gap: 6px;
  align-content: start;
}
aside {
  border-right: 1px solid var(--line);
}
.past {
  border-left: 1px solid var(--line);
}
h2 {
  margin: 4px 0;
}
.target,
.set {
  display: flex;
  gap: 8px;
  align-items: flex-start;
}
.set span:first-of-type {
  flex: 1;
  overflow-wrap: anywhere;
}
.plan {
  display: flex;
  flex-direction: column;
  min-height: 0;
  padding: 8px 14px 0;
}
.plan header {
  display: flex;
  gap: 12px;
  align-items: center;
}
.plan header .soft {
  margin-right: auto;
}
.list {
  flex: 1;
  margin-top: 8px;
}
.caution,
.problem {
  color: var(--error);
  margin: 4px 0;
}
article {
  border-top: 1px solid var(--line);
  padding: 8px 0;
  display: grid;
  gap: 3px;
}
.line {
  display: flex;
  justify-content: space-between;
  overflow: hidden;
}
.link {
  color: var(--accent);
}
.folder {
  overflow-wrap: anywhere;
  font-size: 11px;
}
</style>
