import { textsOf } from ".";
import messages from "./en/parts.json";

export const t = textsOf("parts", messages);
