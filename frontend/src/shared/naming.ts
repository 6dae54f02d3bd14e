// What a shape is called on the screen: its own name, or its action unit beside it.
import { create } from "zustand";
import { useCatalogue } from "./catalogue";

const KEY = "dynaface.units";
export const useNaming = create<{ units: boolean }>(() => ({ units: localStorage.getItem(KEY) === "1" }));

export function showUnits(units: boolean) {
  localStorage.setItem(KEY, units ? "1" : "0");
  useNaming.setState({ units });
}

/** Names a shape as the person wants to read it. */
export function useNames(): (shape: string) => string {
  const { unitOf } = useCatalogue();
  const units = useNaming((s) => s.units);
  return (shape) => (units && unitOf[shape] ? `${unitOf[shape]} ${shape}` : shape);
}
