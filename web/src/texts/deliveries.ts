import { textsOf } from ".";
import messages from "./en/deliveries.json";

export const t = textsOf("deliveries", messages);
