import { textsOf } from ".";
import messages from "./en/intake.json";

export const t = textsOf("intake", messages);
