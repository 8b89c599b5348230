/** For tools that do not read .vue files themselves, such as the linter; the type checker does. */
declare module "*.vue" {
  import type { DefineComponent } from "vue";

  const component: DefineComponent<object, object, object>;
  export default component;
}
