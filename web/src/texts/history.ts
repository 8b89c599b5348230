import { textsOf } from ".";
import messages from "./en/history.json";

export const t = textsOf("history", messages);
