import { textsOf } from ".";
import messages from "./en/overview.json";

export const t = textsOf("overview", messages);
