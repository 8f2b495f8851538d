import createCache from "@emotion/cache";
import { CacheProvider } from "@emotion/react";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { App } from "./app/App";

// The content policy lets in only styles that carry this answer's nonce.
const nonce = document.querySelector<HTMLMetaElement>('meta[name="csp-nonce"]')?.content ?? "";
const styles = createCache({ key: "ember", nonce, prepend: true });

const root = document.getElementById("root");
if (root) {
  createRoot(root).render(
    <StrictMode>
      <CacheProvider value={styles}>
        <App />
      </CacheProvider>
    </StrictMode>,
  );
}
