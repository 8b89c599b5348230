import { textsOf } from ".";
import messages from "./en/materials.json";

export const t = textsOf("materials", messages);
