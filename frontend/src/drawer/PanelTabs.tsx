// The row of panels at the top of a drawer, one of which is shown below it.
import { Box, Flex } from "@chakra-ui/react";

type Props<P extends string> = {
  panels: Record<P, string>;
  shown: P;
  onShow: (panel: P) => void;
  /** What stands behind the name of a panel, such as how many things are in it. */
  aside?: (panel: P) => React.ReactNode;
};

export function PanelTabs<P extends string>({ panels, shown, onShow, aside }: Props<P>) {
  const many = Object.keys(panels).length > 6; // two rows of four
  return (
    <Flex role="tablist" borderBottomWidth="1px" borderColor="line" px="1" flexShrink={0} wrap="wrap">
      {(Object.keys(panels) as P[]).map((name) => (
        <Box
          as="button"
          role="tab"
          key={name}
          flex={many ? "0 0 25%" : "1"}
          py={many ? "1.5" : "2"}
          cursor="pointer"
          whiteSpace="nowrap"
          aria-selected={shown === name}
          color={shown === name ? "ink" : "dim"}
          fontWeight={shown === name ? "600" : "400"}
          boxShadow={shown === name ? "inset 0 -2px 0 {colors.accent}" : undefined}
          onClick={() => onShow(name)}
        >
          {panels[name]}
          {aside?.(name)}
        </Box>
      ))}
    </Flex>
  );
}
