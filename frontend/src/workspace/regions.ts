// The regions that are shown: those of the face and head, and what is extra (distances) where the take has any.
import { useMemo } from "react";
import { useShallow } from "zustand/react/shallow";
import { useCatalogue } from "../shared/catalogue";
import { REGIONS, TRAVEL } from "../shared/regions";
import { useSession } from "./workspace";

export function useRegions() {
  const channels = useSession(useShallow((s) => s.curves?.channels ?? []));
  const { regionOf } = useCatalogue();
  return useMemo(
    () => REGIONS.filter((r) => r.name !== "extra" || channels.some((c) => regionOf[c] === r.name)),
    [channels, regionOf],
  );
}

/** Whether what is open says how far the head went. */
export const useTravels = () => useSession((s) => s.curves?.channels.some((c) => TRAVEL.has(c)) ?? false);
