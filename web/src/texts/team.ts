import { textsOf } from ".";
import messages from "./en/team.json";

export const t = textsOf("team", messages);
