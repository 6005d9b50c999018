import { useQueryClient } from "@tanstack/react-query";

/** Where an injector sits shows on the sheets and in the verdict. */
export function useSeatsChanged(done: () => void): () => void {
  const client = useQueryClient();
  return () => {
    void client.invalidateQueries({ queryKey: ["sheet"] });
    void client.invalidateQueries({ queryKey: ["job"] });
    void client.invalidateQueries({ queryKey: ["jobs"] });
    done();
  };
}
