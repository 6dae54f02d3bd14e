import "@fontsource/ibm-plex-sans/400.css";
import "@fontsource/ibm-plex-sans/500.css";
import "@fontsource/ibm-plex-sans/600.css";
import { ChakraProvider } from "@chakra-ui/react";
import { createRoot } from "react-dom/client";
import { startTheme } from "../shared/colourMode";
import { system } from "../shared/theme";
import { listen } from "./receiverWire";
import { ReceiverPage } from "./ReceiverPage";

startTheme();
listen();
createRoot(document.getElementById("root")!).render(
  <ChakraProvider value={system}>
    <ReceiverPage />
  </ChakraProvider>,
);
