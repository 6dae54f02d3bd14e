// Notices: what went wrong in the server's words, and short confirmations.
import { createToaster } from "@chakra-ui/react";
import { Problem } from "../api/client";

export const toaster = createToaster({ placement: "bottom-end", pauseOnPageIdle: true, max: 4 });

export function notify(about: Problem | { kind: "info" | "success"; message: string; detail?: string }) {
  if (about instanceof Problem) {
    toaster.create({
      type: "error",
      title: upper(about.message),
      description: about.detail || undefined,
      duration: 12000,
      closable: true,
    });
  } else {
    toaster.create({ type: about.kind, title: about.message, description: about.detail, duration: 2500 });
  }
}

const upper = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);
