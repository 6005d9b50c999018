/** Figures from paper: a CSV with their own dates; what it holds is shown before anything is kept. */
import { useQuery } from "@tanstack/react-query";
import api, { got, type VehicleView } from "../../api/client";
import { catalogueQuery } from "../../lib/store";
import FileIntake from "../../ui/FileIntake";
import { Dialog } from "../../ui/parts";

export default function OldFigures({
  vehicle,
  close,
}: {
  vehicle: VehicleView;
  close: () => void;
}) {
  const largest = useQuery(catalogueQuery).data?.largest;
  const send = (text: string, preview: boolean) =>
    got(
      api.POST("/api/vehicles/{vehicle_id}/old-figures", {
        params: { path: { vehicle_id: vehicle.id }, query: { preview } },
        body: text,
        bodySerializer: (body: unknown) => body as string,
        headers: { "Content-Type": "text/csv" },
      }),
    );
  return (
    <Dialog
      wide
      title="Old figures from paper"
      open
      onOpenChange={close}
      note="Columns: date, injector, sheet, value; distance, unit and source may be there too. A sheet is named as on the route; shares of flow are in per cent of the set."
    >
      <p className="figure mb-3 overflow-x-auto whitespace-pre rounded-lg bg-field p-3 text-sm">
        {
          "date,distance,injector,sheet,value,source\n2022-03-14,71200,4,Drop per injector,-2.1,grey book"
        }
      </p>
      <FileIntake
        accept=".csv,text/csv"
        most={largest?.csv}
        hint="A CSV file"
        send={send}
        done={close}
      />
    </Dialog>
  );
}
