// Work on its way out, and on its way back: from wherever one is.
import { Flex, IconButton } from "@chakra-ui/react";
import { X } from "lucide-react";
import { useState } from "react";
import { useParams } from "react-router";
import { Plain } from "../drawer/parts";
import { ReturnPanel } from "../returns/ReturnPanel";
import { HandoverPanel } from "./HandoverPanel";

const WAYS = { over: "Hand over", back: "Bring back" } as const;
type Way = keyof typeof WAYS;

export function HandoverDrawer({ onClose }: { onClose: () => void }) {
  const { production = "" } = useParams();
  const [way, setWay] = useState<Way>("over");
  return (
    <div data-testid="handover-drawer">
      <Flex gap="1" px="3" pt="2" align="center" role="tablist" aria-label="Which way">
        {(Object.keys(WAYS) as Way[]).map((w) => (
          <Plain
            key={w}
            size="xs"
            role="tab"
            aria-selected={way === w}
            bg={way === w ? "bg.pressed" : undefined}
            onClick={() => setWay(w)}
          >
            {WAYS[w]}
          </Plain>
        ))}
        <IconButton aria-label="Close handovers" size="2xs" variant="ghost" ml="auto" onClick={onClose}>
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
