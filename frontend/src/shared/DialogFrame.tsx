// The frame of a dialog: title, closing by Escape, backdrop or cross; focus is held and given back.
import { CloseButton, Dialog, Portal } from "@chakra-ui/react";
import type { ReactNode } from "react";

type Props = { title: string; size: "md" | "lg"; maxW?: string; onClose: () => void; children: ReactNode };

export function DialogFrame({ title, size, maxW, onClose, children }: Props) {
  return (
    <Dialog.Root open onOpenChange={(e) => !e.open && onClose()} size={size} placement="center" scrollBehavior="inside">
      <Portal>
        <Dialog.Backdrop />
        <Dialog.Positioner>
          <Dialog.Content bg="bg.raised" borderWidth="1px" borderColor="line" maxW={maxW}>
            <Dialog.Header py="3">
              <Dialog.Title>{title}</Dialog.Title>
            </Dialog.Header>
            <Dialog.Body>{children}</Dialog.Body>
            <Dialog.CloseTrigger asChild>
              <CloseButton size="sm" aria-label="Close" />
            </Dialog.CloseTrigger>
          </Dialog.Content>
        </Dialog.Positioner>
      </Portal>
    </Dialog.Root>
  );
}
