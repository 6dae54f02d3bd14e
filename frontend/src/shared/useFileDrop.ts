// Files that are dropped on a part of the page.
import { type DragEvent, useState } from "react";

/** Whether something is held over the part, and what the part listens to. */
export function useFileDrop(onFiles: (files: FileList) => void) {
  const [over, setOver] = useState(false);
  const drop = {
    onDragOver: (e: DragEvent) => {
      e.preventDefault();
      setOver(true);
    },
    onDragLeave: () => setOver(false),
    onDrop: (e: DragEvent) => {
      e.preventDefault();
      setOver(false);
      onFiles(e.dataTransfer.files);
    },
  };
  return { over, drop };
}
