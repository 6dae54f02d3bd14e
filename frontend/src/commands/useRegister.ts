import { useEffect } from "react";
import { register, type Command } from "./commands";

/** Offers commands while the component is there; `commands` must be the same list between renderings that do not change it. */
export function useRegister(commands: Command[]) {
  useEffect(() => register(commands), [commands]);
}
