/** Rows that can be put into the order of reach, by pointer and by keyboard. */
import {
  closestCenter,
  DndContext,
  KeyboardSensor,
  PointerSensor,
  useSensor,
  useSensors,
  type DragEndEvent,
} from "@dnd-kit/core";
import {
  arrayMove,
  SortableContext,
  sortableKeyboardCoordinates,
  useSortable,
  verticalListSortingStrategy,
} from "@dnd-kit/sortable";
import { CSS } from "@dnd-kit/utilities";
import type { RowView } from "../../api/client";
import { SheetRow, type RowProps } from "./SheetRow";

type OnOrder = (labels: string[]) => void;

/** What carries rows into another order, by pointer and by keyboard. */
function useCarry(labels: string[], onOrder: OnOrder) {
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const onDragEnd = ({ active, over }: DragEndEvent) => {
    if (!over || active.id === over.id) return;
    const from = labels.indexOf(String(active.id));
    const to = labels.indexOf(String(over.id));
    onOrder(arrayMove(labels, from, to));
  };
  return { sensors, onDragEnd, collisionDetection: closestCenter };
}

interface Props {
  rows: RowProps[];
  onOrder: OnOrder;
}

export default function CarriedRows({ rows, onOrder }: Props) {
  const labels = rows.map((r) => r.row.injector);
  return (
    // What is said while a row moves stands beside the table: a table holds rows alone.
    <DndContext {...useCarry(labels, onOrder)} accessibility={{ container: document.body }}>
      <SortableContext items={labels} strategy={verticalListSortingStrategy}>
        {rows.map((props) => (
          <Carried key={props.row.injector} {...props} />
        ))}
      </SortableContext>
    </DndContext>
  );
}

function Carried(props: RowProps) {
  const { setNodeRef, transform, transition, isDragging, ...grip } = useSortable({
    id: props.row.injector,
  });
  const carry = {
    setNodeRef,
    style: { transform: CSS.Translate.toString(transform), transition },
    moves: isDragging,
    grip: <Grip row={props.row} grip={grip} />,
  };
  return <SheetRow {...props} carry={carry} />;
}

interface GripProps {
  row: RowView;
  grip: Pick<ReturnType<typeof useSortable>, "setActivatorNodeRef" | "attributes" | "listeners">;
}

function Grip({ row, grip: { setActivatorNodeRef, attributes, listeners } }: GripProps) {
  return (
    <button
      type="button"
      ref={setActivatorNodeRef}
      {...attributes}
      {...listeners}
      aria-label={`Move injector ${row.injector} in the order of reach`}
      className="h-11 w-6 touch-none text-soft"
    >
      ⠿
    </button>
  );
}
