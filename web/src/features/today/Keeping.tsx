/** What somebody should look after so that nothing is lost: backups that fail, a disk that fills. */
import { useQuery } from "@tanstack/react-query";
import { got, shopApi } from "../../api/client";
import { useHere } from "../../lib/here";

export function Keeping() {
  const here = useHere();
  const role = here?.person?.role;
  // On the network it is for those who can do something about it.
  const mine = here !== undefined && (!here.network || role === "lead" || role === "owner");
  const safe = useQuery({
    queryKey: ["keeping"],
    queryFn: () => got(shopApi.GET("/api/keeping")),
    refetchInterval: 300_000,
    enabled: mine,
  });
  if (!mine || !safe.data?.told.length) return null;
  return (
    <section
      aria-label="Safe keeping"
      className="mb-4 rounded-lg border-2 border-chalk bg-sheet p-3"
    >
      <h2 className="mb-1 text-sm font-bold text-soft">Safe keeping</h2>
      {safe.data.told.map((text) => (
        <p key={text}>{text}</p>
      ))}
    </section>
  );
}
