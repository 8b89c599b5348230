import { textsOf } from ".";
import messages from "./en/ground.json";

export const t = textsOf("ground", messages);
