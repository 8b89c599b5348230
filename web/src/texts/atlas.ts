import { textsOf } from ".";
import messages from "./en/atlas.json";

export const t = textsOf("atlas", messages);
