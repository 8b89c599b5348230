import { textsOf } from ".";
import messages from "./en/preview.json";

export const t = textsOf("preview", messages);
