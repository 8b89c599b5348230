import { textsOf } from ".";
import messages from "./en/app.json";

export const t = textsOf("app", messages);
