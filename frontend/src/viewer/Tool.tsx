import { IconButton } from "@chakra-ui/react";

/** A small button in the corner of a view. */
export function Tool({
  label,
  on,
  onClick,
  children,
}: {
  label: string;
  on?: boolean;
  onClick: () => void;
  children: React.ReactNode;
}) {
  return (
    <IconButton
      aria-label={label}
      title={label}
      aria-pressed={on}
      size="xs"
      variant="ghost"
      color={on ? "accent" : "dim"}
      onClick={onClick}
    >
      {children}
    </IconButton>
  );
}
