/** The file that masters are read from; it outlives the way from one part of the screen to another. */
import { shallowRef } from "vue";

export const chosenFile = shallowRef<File | null>(null);
