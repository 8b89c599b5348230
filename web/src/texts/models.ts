import { textsOf } from ".";
import messages from "./en/models.json";

export const t = textsOf("models", messages);
