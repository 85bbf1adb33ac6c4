import "@fontsource-variable/source-sans-3";
import "./styles.css";
import { QueryClientProvider } from "@tanstack/react-query";
import { setNonce } from "get-nonce";
import { Tooltip } from "radix-ui";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { followNews } from "../api/events";
import { queries } from "../api/queries";
import { fillKeys } from "../keys/inForce";
import { learnLayout } from "../keys/layout";
import { followLabels } from "../shoot/labels";
import { followOutbox } from "../shoot/marking";
import { startSending } from "../shoot/outbox/sending";
import { asInForce } from "../shoot/walk/commands";
import { showSurround } from "../ui/surround";
import { App } from "./App";
import { COMMANDS } from "./commands";

// Radix adds a style element while a dialog is open; the content security policy asks for the nonce.
const nonce = document.querySelector<HTMLMetaElement>("meta[property=csp-nonce]")?.nonce;
if (nonce) setNonce(nonce);

fillKeys(COMMANDS, asInForce);
learnLayout();
showSurround();
followNews();
followOutbox();
followLabels();
void startSending();

const root = document.getElementById("root");
if (!root) throw new Error("The page has no place for the application.");
createRoot(root).render(
  <StrictMode>
    <QueryClientProvider client={queries}>
      <Tooltip.Provider delayDuration={400}>
        <App />
      </Tooltip.Provider>
    </QueryClientProvider>
  </StrictMode>,
);
