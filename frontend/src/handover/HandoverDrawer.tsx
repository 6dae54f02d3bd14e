// Work on its way out, and on its way back: from wherever one is.
import { Box, Flex, IconButton } from "@chakra-ui/react";
import { X } from "lucide-react";
import { useState } from "react";
import { useParams } from "react-router";
import { PanelTabs } from "../drawer/PanelTabs";
import { ReturnPanel } from "../returns/ReturnPanel";
import { HandoverPanel } from "./HandoverPanel";

const WAYS = { over: "Hand over", back: "Bring back" } as const;
type Way = keyof typeof WAYS;

export function HandoverDrawer({ onClose }: { onClose: () => void }) {
  const { production = "" } = useParams();
  const [way, setWay] = useState<Way>("over");
  return (
    <div data-testid="handover-drawer">
      <Flex align="center" borderBottomWidth="1px" borderColor="line">
        <Box flex="1" mb="-1px">
          <PanelTabs panels={WAYS} shown={way} onShow={setWay} />
        </Box>
        <IconButton aria-label="Close handovers" size="2xs" variant="ghost" mx="2" onClick={onClose}>
          <X size={14} />
        </IconButton>
      </Flex>
      {way === "back" ? (
        <ReturnPanel production={production} onOpen={onClose} />
      ) : (
        <HandoverPanel production={production} />
      )}
    </div>
  );
}
