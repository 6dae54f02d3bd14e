// The drawer of the Join desk: the body of the take that is open, and the recordings of a moment on one clock.
import { Box } from "@chakra-ui/react";
import { useState } from "react";
import { useParams } from "react-router";
import { PanelTabs } from "../../drawer/PanelTabs";
import { useOpen } from "../../workspace/workspace";
import { BodyPanel } from "./BodyPanel";
import { LineUpPanel } from "./LineUpPanel";
import { MatchPanel } from "./MatchPanel";

const PANELS = { body: "Body", match: "Match", lineUp: "Line up" } as const;

export function JoinDrawer() {
  const { opened } = useOpen("opened");
  const { take } = useParams();
  const [panel, setPanel] = useState<keyof typeof PANELS>(take ? "body" : "lineUp");
  return (
    <Box data-testid="join-drawer">
      <PanelTabs panels={PANELS} shown={panel} onShow={setPanel} />
      {panel === "lineUp" ? (
        <LineUpPanel />
      ) : opened ? (
        panel === "match" ? (
          <MatchPanel />
        ) : (
          <BodyPanel />
        )
      ) : take ? null : (
        <Box p="3" color="dim">
          No take is open. Choose one at the Gather desk, or line recordings up.
        </Box>
      )}
    </Box>
  );
}
