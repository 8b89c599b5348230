import { createRouter, createWebHistory, type RouteLocation, type RouteRecordRaw } from "vue-router";

import { fetchSetsEarly } from "@/api/queries";
import { currentSession } from "@/api/session";

const ofProject = (route: RouteLocation) => ({ slug: route.params.slug as string });

const inProject: RouteRecordRaw[] = [
  { path: "", name: "overview", component: () => import("@/screens/overview/OverviewScreen.vue") },
  { path: "history", name: "history", component: () => import("@/screens/history/HistoryScreen.vue") },
  { path: "intake", name: "intake", component: () => import("@/screens/intake/IntakeScreen.vue") },
  { path: "library", name: "library", component: () => import("@/screens/scans/LibraryScreen.vue") },
  { path: "habit", name: "habit", component: () => import("@/screens/habit/HabitScreen.vue") },
  { path: "sets", name: "sets", component: () => import("@/screens/sets/SetsScreen.vue") },
  {
    path: "set/:id(\\d+)",
    name: "set",
    props: (route) => ({ ...ofProject(route), id: Number(route.params.id) }),
    component: () => import("@/screens/set/SetScreen.vue"),
  },
  {
    path: "materials/:kind?/:key?",
    name: "materials",
    component: () => import("@/screens/materials/MaterialsScreen.vue"),
  },
  {
    path: "ground/:id(\\d+)?",
    name: "ground",
    component: () => import("@/screens/ground/GroundScreen.vue"),
  },
  {
    path: "models/:id(\\d+)?",
    name: "models",
    component: () => import("@/screens/models/ModelsScreen.vue"),
  },
  {
    path: "deliveries",
    name: "deliveries",
    component: () => import("@/screens/deliveries/DeliveriesScreen.vue"),
  },
  { path: "rules/:part?", name: "rules", component: () => import("@/screens/rules/RulesScreen.vue") },
  // Addresses of former versions, kept for bookmarks.
  {
    path: "masters/:kind?/:key?",
    redirect: (to) => ({ name: "materials", params: to.params, query: to.query }),
  },
];

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    {
      path: "/sign-in",
      name: "sign-in",
      component: () => import("@/screens/SignIn.vue"),
      meta: { open: true },
    },
    // What a link carries stands behind the # of its address, which no server is told.
    {
      path: "/invitation",
      name: "invitation",
      component: () => import("@/screens/team/InvitationScreen.vue"),
      meta: { open: true },
    },
    {
      path: "/new-password",
      name: "new-password",
      component: () => import("@/screens/team/NewPasswordScreen.vue"),
      meta: { open: true },
    },
    { path: "/server", name: "server", component: () => import("@/screens/team/ServerScreen.vue") },
    { path: "/accounts", name: "accounts", component: () => import("@/screens/team/AccountsScreen.vue") },
    { path: "/", name: "projects", component: () => import("@/screens/Projects.vue") },
    { path: "/glossary", name: "glossary", component: () => import("@/screens/GlossaryScreen.vue") },
    {
      path: "/p/:slug",
      component: () => import("@/app/ProjectFrame.vue"),
      props: true,
      children: inProject.map((one) => ({ props: ofProject, ...one }) as RouteRecordRaw),
    },
    { path: "/:rest(.*)", redirect: "/" },
  ],
});

/** Begin to fetch a screen and what it shows while it is asked who somebody is. A failure shows where it is used. */
function fetchEarly(to: RouteLocation, from: RouteLocation): void {
  if (to.params.slug && to.params.slug !== from.params.slug) void fetchSetsEarly(to.params.slug as string);
  for (const { components } of to.matched)
    for (const part of Object.values(components ?? {}))
      if (typeof part === "function") void (part as () => Promise<unknown>)().catch(() => {});
}

router.beforeEach(async (to, from) => {
  if (to.meta.open) return true;
  fetchEarly(to, from);
  const session = await currentSession();
  return session.name ? true : { name: "sign-in", query: { next: to.fullPath } };
});
