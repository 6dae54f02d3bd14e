// The drawer of the Join desk: the body of the take that is open, and the recordings of a moment on one clock.
import { Box } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import { useParams } from "react-router";
import { useStandState } from "../../contacts/useStands";
import { PanelTabs } from "../../drawer/PanelTabs";
import { forgetSnags, lookThrough, useSnags } from "../../snags/snags";
import { SnagsPanel } from "../../snags/SnagsPanel";
import { stopTrial } from "../../workspace/trial";
import { activeSession, useOpen } from "../../workspace/workspace";
import { BodyPanel } from "./BodyPanel";
import { BodyTidyPanel } from "./BodyTidyPanel";
import { ContactsPanel } from "./ContactsPanel";
import { HandsPanel } from "./HandsPanel";
import { HeadPanel } from "./HeadPanel";
import { LineUpPanel } from "./LineUpPanel";
import { MatchPanel } from "./MatchPanel";

const Snags = () => <SnagsPanel what="the body" on="the body and the character" />;
const PANELS = {
  body: BodyPanel,
  match: MatchPanel,
  head: HeadPanel,
  contacts: ContactsPanel,
  hands: HandsPanel,
  tidy: BodyTidyPanel,
  snags: Snags,
  lineUp: LineUpPanel,
};
type Panel = keyof typeof PANELS;
const WORDS: Record<Panel, string> = {
  body: "Body",
  match: "Match",
  head: "Head",
  contacts: "Contacts",
  hands: "Hands",
  tidy: "Tidy",
  snags: "Snags",
  lineUp: "Line up",
};
/** What needs a body to say anything. */
const OF_BODY: Panel[] = ["contacts", "tidy", "snags"];

export function JoinDrawer() {
  const { opened } = useOpen("opened");
  const { take } = useParams();
  const [panel, setPanel] = useState<Panel>(take ? "body" : "lineUp");
  const count = useSnags((s) => s.list?.snags.length);
  const has = !!opened?.sources.body && !!opened.sources.curves;
  const looked = [opened?.take.id, opened?.join.version, opened?.sources.body?.id, opened?.character?.id].join(" ");
  useEffect(() => {
    if (has) void lookThrough(activeSession()?.bodySnags ?? null);
    else forgetSnags();
  }, [looked, has]);
  useEffect(
    () => () => {
      stopTrial();
      forgetSnags();
    },
    [],
  );
  // A contact that is pressed in the deck is shown where contacts are.
  const pressed = useStandState((s) => s.chosen);
  useEffect(() => {
    if (pressed) setPanel("contacts");
  }, [pressed]);
  const Shown = PANELS[panel];
  return (
    <Box data-testid="join-drawer">
      <PanelTabs
        panels={WORDS}
        shown={panel}
        onShow={setPanel}
        aside={(name) => name === "snags" && has && count !== undefined && ` ${count}`}
      />
      {panel === "lineUp" || (opened && (has || !OF_BODY.includes(panel))) ? (
        <Shown />
      ) : (
        <Box p="3" color="dim">
          {opened
            ? "This take has no body. Bring one in at Body."
            : take
              ? null
              : "No take is open. Choose one at the Gather desk, or line recordings up."}
        </Box>
      )}
    </Box>
  );
}
