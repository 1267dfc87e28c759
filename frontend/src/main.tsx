import "@fontsource/ibm-plex-mono/400.css";
import "@fontsource/ibm-plex-mono/500.css";
import "@fontsource/ibm-plex-sans-condensed/400.css";
import "@fontsource/ibm-plex-sans-condensed/500.css";
import "@fontsource/ibm-plex-sans-condensed/600.css";
import "@fontsource/ibm-plex-sans/400.css";
import "@fontsource/ibm-plex-sans/500.css";
import "@fontsource/ibm-plex-sans/600.css";
import { MutationCache, QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { createRoot } from "react-dom/client";
import { App } from "./App";
import { asked } from "./api/asked";
import { passes, type Problem } from "./api/client";
import { loadAt } from "./places";
// All styles come with the first page, in this order: places share them, and load apart.
import "virtual:antd.css";
import "./theme/tokens.css";
import "./theme/shared.css";

const client: QueryClient = new QueryClient({
  // What has been changed may stand in any list: each is read again when it is next opened.
  mutationCache: new MutationCache({
    onSuccess: () =>
      client.invalidateQueries({
        refetchType: "none",
        predicate: ({ options }) => (options as { staleTime?: number }).staleTime !== Infinity,
      }),
  }),
  defaultOptions: {
    queries: {
      staleTime: 2000,
      // A sentence from the server will not change by asking again; silence may.
      retry: (count, error) => count < 2 && passes(error as Problem),
    },
  },
});

// What the first place shows is waited for, so that it is drawn once and whole; the page says
// whose it is meanwhile. A failure is told by the place itself.
const steps = location.pathname.startsWith("/bench/")
  ? client.prefetchQuery(asked.steps())
  : undefined;
try {
  const { place, opened } = await loadAt(location.pathname);
  const id = Number(opened);
  if (place === "bench" && opened) await client.prefetchQuery(asked.draft(id));
  await steps;
} catch (error) {
  console.error(error);
}

createRoot(document.getElementById("root")!).render(
  <QueryClientProvider client={client}>
    <App />
  </QueryClientProvider>,
);
