import { textsOf } from ".";
import messages from "./en/rules.json";

export const t = textsOf("rules", messages);
