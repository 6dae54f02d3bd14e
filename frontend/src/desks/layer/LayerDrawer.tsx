// The Layer desk's drawer: clips, layers and makers of the open shot; without one, the shots of the production.
import { Box, Flex } from "@chakra-ui/react";
import { useEffect } from "react";
import { useNavigate, useParams } from "react-router";
import { PanelTabs } from "../../drawer/PanelTabs";
import { nameOfRole } from "../../workspace/state";
import { stopTrial } from "../../workspace/trial";
import { activeShot, useOpen, useWorkspace } from "../../workspace/workspace";
import { ClipsPanel } from "./ClipsPanel";
import { KeysOfLayer } from "./KeysOfLayer";
import { useLayerDesk } from "./layerState";
import { LayersPanel } from "./LayersPanel";
import { MakersPanel } from "./MakersPanel";
import { PosesPanel } from "./PosesPanel";
import { PropsPanel } from "./PropsPanel";
import { lookThrough, forgetSnags } from "../../snags/snags";
import { SnagsPanel } from "../../snags/SnagsPanel";
import { ShotList } from "./ShotList";
import { WordsPanel } from "./WordsPanel";

/** What is wrong in the result of the role that is worked on; looked for while it is shown. */
function Snags() {
  const { shot } = useOpen("shot");
  const role = shot?.role ?? "";
  const { opened } = shot!;
  useEffect(() => void lookThrough(activeShot()), [role, opened.shot.version, opened.layers, opened.clips]);
  useEffect(
    () => () => {
      stopTrial();
      forgetSnags();
    },
    [],
  );
  return <SnagsPanel what="the role" on={`what ${nameOfRole(shot!, role)} does, with layers, on the character`} />;
}

const PANELS = {
  clips: ClipsPanel,
  layers: LayersPanel,
  keys: KeysOfLayer,
  makers: MakersPanel,
  words: WordsPanel,
  poses: PosesPanel,
  props: PropsPanel,
  snags: Snags,
};
const WORDS = {
  clips: "Clips",
  layers: "Layers",
  keys: "Keys",
  makers: "Makers",
  words: "Words",
  poses: "Poses",
  props: "Props",
  snags: "Snags",
};

export function LayerDrawer() {
  const { shot } = useOpen("shot");
  const panel = useLayerDesk((s) => s.panel);
  const navigate = useNavigate();
  const { production = "" } = useParams();
  const id = shot?.opened.shot.id;
  useEffect(
    () =>
      useLayerDesk.setState({
        placement: null,
        span: null,
        dragging: null,
        spanDrag: null,
        wordDrag: null,
        hold: null,
        holdDrag: null,
        word: null,
      }),
    [id],
  );
  const wished = useWorkspace((w) => w.layerWished);
  useEffect(() => {
    if (!wished) return;
    useLayerDesk.setState({ panel: "layers" });
    useWorkspace.setState({ layerWished: false });
  }, [wished]);
  if (!shot) return <ShotList />;
  const Panel = PANELS[panel];
  return (
    <Box data-testid="layer-drawer">
      <PanelTabs panels={WORDS} shown={panel} onShow={(p) => useLayerDesk.setState({ panel: p })} />
      <Panel />
      <Flex px="3" py="2">
        <Box as="button" color="accent" cursor="pointer" onClick={() => void navigate(`/${production}/layer`)}>
          All shots
        </Box>
      </Flex>
    </Box>
  );
}
