import "@fontsource-variable/source-sans-3";
import "@mantine/core/styles.css";
import "@mantine/dates/styles.css";
import "@mantine/notifications/styles.css";
import "./tokens.css";
import { MantineProvider } from "@mantine/core";
import { Notifications } from "@mantine/notifications";
import { QueryClientProvider } from "@tanstack/react-query";
import { RouterProvider } from "@tanstack/react-router";
import { setNonce } from "get-nonce";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { queries } from "./queries";
import { router } from "./router";
import { theme } from "./theme";

const nonce = document.querySelector<HTMLMetaElement>('meta[name="style-nonce"]')?.content ?? "";
// Dialogs lock scrolling with a style sheet of their own, which takes its nonce from here.
setNonce(nonce);

createRoot(document.getElementById("root") as HTMLElement).render(
  <StrictMode>
    <MantineProvider theme={theme} defaultColorScheme="auto" getStyleNonce={() => nonce}>
      <Notifications />
      <QueryClientProvider client={queries}>
        <RouterProvider router={router} />
      </QueryClientProvider>
    </MantineProvider>
  </StrictMode>,
);
