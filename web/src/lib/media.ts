/** Whether the window is as wide or as high as a layout needs. */
import { useSyncExternalStore } from "react";

export function useMedia(query: string): boolean {
  return useSyncExternalStore(
    (listener) => {
      const media = window.matchMedia(query);
      media.addEventListener("change", listener);
      return () => media.removeEventListener("change", listener);
    },
    () => window.matchMedia(query).matches,
  );
}

/** Room for what the sheet says beside the sheet. */
export const useBeside = (): boolean => useMedia("(min-width: 64rem)");

/** Room for the route as well. */
export const useThreeColumns = (): boolean => useMedia("(min-width: 80rem)");
