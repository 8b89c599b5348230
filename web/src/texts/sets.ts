import { textsOf } from ".";
import messages from "./en/sets.json";

export const t = textsOf("sets", messages);
