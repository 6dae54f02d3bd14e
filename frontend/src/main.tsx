import "@fontsource/ibm-plex-sans/400.css";
import "@fontsource/ibm-plex-sans/500.css";
import "@fontsource/ibm-plex-sans/600.css";
import { ChakraProvider } from "@chakra-ui/react";
import { QueryClientProvider } from "@tanstack/react-query";
import { createRoot } from "react-dom/client";
import { BrowserRouter } from "react-router";
import { App } from "./app/App";
import { makeClient } from "./shared/queries";
import { drawTimes } from "./timekit/frameLoop";
import { openSession } from "./workspace/workspace";
import { startTheme } from "./shared/colourMode";
import { system } from "./shared/theme";

startTheme();
// Read by bench/screen.py.
Object.assign(window, {
  dynafaceBench: {
    drawTimes,
    get previewTimes() {
      return openSession()?.previewTimes ?? [];
    },
  },
});
createRoot(document.getElementById("root")!).render(
  <ChakraProvider value={system}>
    <QueryClientProvider client={makeClient()}>
      <BrowserRouter>
        <App />
      </BrowserRouter>
    </QueryClientProvider>
  </ChakraProvider>,
);
