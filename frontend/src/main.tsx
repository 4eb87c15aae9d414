import "@fontsource-variable/atkinson-hyperlegible-next/wght.css";
import "@fontsource-variable/literata/wght.css";
import "./app/engraving.css";

import createCache from "@emotion/cache";
import { CacheProvider } from "@emotion/react";
import CssBaseline from "@mui/material/CssBaseline";
import { ThemeProvider } from "@mui/material/styles";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";

import { Problem } from "./api/client";
import { App } from "./app/App";
import { keepPage } from "./app/installed";
import { theme } from "./app/theme";

const nonce = document.querySelector<HTMLMetaElement>('meta[name="style-nonce"]')?.content;
const cache = createCache({ key: "owl", nonce });
const queries = new QueryClient({
  defaultOptions: {
    // The page's own worker answers where there is no network: it has to be asked.
    mutations: { networkMode: "always" },
    queries: {
      networkMode: "always",
      staleTime: 5_000,
      retry: (count, error) => count < 2 && !(error instanceof Problem && error.status >= 400 && error.status < 500),
    },
  },
});

keepPage();

createRoot(document.getElementById("root")!).render(
  <StrictMode>
    <CacheProvider value={cache}>
      <ThemeProvider theme={theme}>
        <CssBaseline />
        <QueryClientProvider client={queries}>
          <App />
        </QueryClientProvider>
      </ThemeProvider>
    </CacheProvider>
  </StrictMode>,
);
