import { textsOf } from ".";
import messages from "./en/viewer.json";

export const t = textsOf("viewer", messages);
