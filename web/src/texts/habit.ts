import { textsOf } from ".";
import messages from "./en/habit.json";

export const t = textsOf("habit", messages);
