import { createRouter, createWebHistory } from "vue-router";

import { currentSession } from "@/api/session";

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    {
      path: "/sign-in",
      name: "sign-in",
      component: () => import("@/screens/SignIn.vue"),
      meta: { open: true },
    },
    { path: "/", name: "projects", component: () => import("@/screens/Projects.vue") },
    {
      path: "/p/:slug",
      component: () => import("@/app/ProjectFrame.vue"),
      props: true,
      children: [
        { path: "", name: "roll", props: true, component: () => import("@/screens/roll/RollScreen.vue") },
        {
          path: "intake",
          name: "intake",
          props: true,
          component: () => import("@/screens/intake/IntakeScreen.vue"),
        },
        {
          path: "habit",
          name: "habit",
          props: true,
          component: () => import("@/screens/habit/HabitScreen.vue"),
        },
        {
          path: "set/:id(\\d+)",
          name: "bench",
          props: (route) => ({ slug: route.params.slug, id: Number(route.params.id) }),
          component: () => import("@/screens/bench/BenchScreen.vue"),
        },
        {
          path: "masters/:kind?/:key?",
          name: "masters",
          props: (route) => ({ slug: route.params.slug }),
          component: () => import("@/screens/masters/MastersScreen.vue"),
        },
        {
          path: "rules/:part?",
          name: "rules",
          props: (route) => ({ slug: route.params.slug }),
          component: () => import("@/screens/rules/RulesScreen.vue"),
        },
        {
          path: "deliveries",
          name: "deliveries",
          props: true,
          component: () => import("@/screens/deliveries/DeliveriesScreen.vue"),
        },
      ],
    },
    { path: "/:rest(.*)", redirect: "/" },
  ],
});

router.beforeEach(async (to) => {
  if (to.meta.open) return true;
  const session = await currentSession();
  return session.name ? true : { name: "sign-in", query: { next: to.fullPath } };
});
