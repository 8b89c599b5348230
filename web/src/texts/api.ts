import { textsOf } from ".";
import messages from "./en/api.json";

export const t = textsOf("api", messages);
