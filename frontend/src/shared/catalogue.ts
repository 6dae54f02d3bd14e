import { useQuery } from "@tanstack/react-query";
import { api, type Catalogue } from "../api/client";

const NONE: Catalogue = {
  steps: [],
  shapes: [],
  channels: [],
  regions: [],
  regionOf: {},
  unitOf: {},
  ways: {},
  aims: [],
  makers: [],
  bodySteps: [],
  bodyGroups: [],
};

/** The standard shapes, regions and steps; they do not change while the server runs. */
export function useCatalogue(): Catalogue {
  return useQuery({ queryKey: ["catalogue"], queryFn: api.catalogue, staleTime: Infinity }).data ?? NONE;
}
