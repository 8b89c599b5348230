import { textsOf } from ".";
import messages from "./en/set.json";

export const t = textsOf("set", messages);
