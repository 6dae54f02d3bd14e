// The tools for keys and curves, at the desks that edit them.
import { HStack, IconButton } from "@chakra-ui/react";
import { Diamond, Lasso, MoveHorizontal, Paintbrush, Pencil, Spline } from "lucide-react";
import { useKeys, type DeckTool } from "../keys/keys";

const TOOLS: { tool: DeckTool; label: string; icon: React.ReactNode }[] = [
  { tool: "scrub", label: "Scrub (1)", icon: <MoveHorizontal size={15} /> },
  { tool: "keys", label: "Choose and drag keys (2)", icon: <Diamond size={14} /> },
  { tool: "lasso", label: "Choose keys by lasso (3)", icon: <Lasso size={15} /> },
  { tool: "draw", label: "Draw a stretch of the nearest curve (4)", icon: <Pencil size={14} /> },
  { tool: "smooth", label: "Smooth with a soft brush (5)", icon: <Paintbrush size={14} /> },
  { tool: "pull", label: "Pull with a soft brush (6)", icon: <Spline size={15} /> },
];

export function DeckTools() {
  const tool = useKeys((s) => s.tool);
  return (
    <HStack gap="0" mr="2" role="group" aria-label="Deck tools">
      {TOOLS.map((t) => (
        <IconButton
          key={t.tool}
          aria-label={t.label}
          title={t.label}
          aria-pressed={tool === t.tool}
          size="xs"
          variant="ghost"
          color={tool === t.tool ? "accent" : "ink"}
          bg={tool === t.tool ? "bg.pressed" : undefined}
          onClick={() => useKeys.setState({ tool: t.tool })}
        >
          {t.icon}
        </IconButton>
      ))}
    </HStack>
  );
}
