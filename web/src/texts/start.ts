import { textsOf } from ".";
import messages from "./en/start.json";

export const t = textsOf("start", messages);
