import { QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { App } from "./app";
import { queries } from "./lib/store";
import "./styles.css";

// What keeps the pages for when the server is away comes after them.
window.addEventListener("load", () => {
  void import("./lib/newer").then(({ keepUpToDate }) => keepUpToDate());
});

const root = document.getElementById("root");
if (root) {
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={queries}>
        <App />
      </QueryClientProvider>
    </StrictMode>,
  );
}
