import { textsOf } from ".";
import messages from "./en/tileable.json";

export const t = textsOf("tileable", messages);
