// The desks in the order of the work, with what each shows in its drawer.
import { CastDrawer } from "../desks/cast/CastDrawer";
import { GatherDrawer } from "../desks/gather/GatherDrawer";
import { JoinDrawer } from "../desks/join/JoinDrawer";
import { LayerDrawer } from "../desks/layer/LayerDrawer";
import { SolveDrawer } from "../desks/solve/SolveDrawer";
import { TidyDrawer } from "../desks/tidy/TidyDrawer";

export const DESKS = ["gather", "solve", "tidy", "cast", "layer", "join"] as const;
export type Desk = (typeof DESKS)[number];

export const DRAWERS: Record<Desk, () => React.ReactNode> = {
  gather: GatherDrawer,
  solve: SolveDrawer,
  tidy: TidyDrawer,
  cast: CastDrawer,
  layer: LayerDrawer,
  join: JoinDrawer,
};

export const titled = (desk: string): string => desk[0]!.toUpperCase() + desk.slice(1);
