import { textsOf } from ".";
import messages from "./en/versions.json";

export const t = textsOf("versions", messages);
