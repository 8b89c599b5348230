import { textsOf } from ".";
import messages from "./en/scans.json";

export const t = textsOf("scans", messages);
