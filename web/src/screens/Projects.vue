<script setup lang="ts">
import { useQueryClient } from "@tanstack/vue-query";
import Button from "primevue/button";
import InputText from "primevue/inputtext";
import { ref } from "vue";

import { router } from "@/app/router";
import { client, data } from "@/api/client";
import { pictureOf } from "@/api/pictures";
import { keys, useProjects } from "@/api/queries";
import { signOut } from "@/api/session";

const projects = useProjects();
const queries = useQueryClient();
const name = ref("");
const problem = ref("");

const rights: Record<string, string> = {
  look: "you may look",
  prepare: "you may prepare and deliver",
  rules: "you set its rules",
};

async function make(): Promise<void> {
  problem.value = "";
  try {
    const made = await data(client.POST("/api/projects", { body: { name: name.value } }));
    await queries.invalidateQueries({ queryKey: keys.projects });
    await router.push({ name: "intake", params: { slug: made.slug } });
  } catch (error) {
    problem.value = (error as Error).message;
  }
}

async function leave(): Promise<void> {
  await signOut();
  window.location.assign("/sign-in");
}
</script>

<template>
  <main>
    <header>
      <h1>Projects</h1>
      <button class="plain soft" @click="leave">Sign out</button>
    </header>
    <ul>
      <li v-for="project in projects.data.value" :key="project.slug">
        <RouterLink :to="{ name: 'sets', params: { slug: project.slug } }">
          {{ project.name }}
          <span v-if="project.prints.length" class="prints">
            <img
              v-for="one in project.prints"
              :key="one.id"
              :src="pictureOf(project.slug, one, { side: 192 })"
              alt=""
            />
          </span>
        </RouterLink>
        <span class="soft"
          >{{ project.sets }} {{ project.sets === 1 ? "set" : "sets" }}, delivers to
          <span class="mono">{{ project.target }}</span>; {{ rights[project.right] ?? project.right }}</span
        >
      </li>
    </ul>
    <p v-if="projects.data.value?.length === 0" class="soft">
      You are in no project yet. Name one below; it is yours, and others can be added to it.
    </p>
    <form @submit.prevent="make">
      <InputText
        v-model="name"
        placeholder="Name of a new project"
        aria-label="Name of a new project"
        required
      />
      <Button type="submit" label="Start project" outlined />
    </form>
    <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
  </main>
</template>

<style scoped>
main {
  max-width: 860px;
  margin: 0 auto;
  padding: 48px 24px;
}
header {
  display: flex;
  justify-content: space-between;
}
ul {
  list-style: none;
  padding: 0;
  margin: 20px 0;
  border-top: 1px solid var(--line);
}
li {
  display: grid;
  gap: 2px;
  padding: 12px 0;
  border-bottom: 1px solid var(--line);
}
li a {
  font-size: 16px;
  font-weight: 650;
  text-decoration: none;
}
.prints {
  display: grid;
  grid-template-columns: repeat(8, 1fr);
  gap: 4px;
  margin: 8px 0 4px;
}
.prints img {
  display: block;
  width: 100%;
  aspect-ratio: 1;
  object-fit: cover;
  background: var(--surround);
}
form {
  display: flex;
  gap: 8px;
}
.problem {
  color: var(--error);
}
</style>
