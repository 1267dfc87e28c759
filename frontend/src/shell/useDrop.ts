import { useState } from "react";

/** Files dropped anywhere on a place, or picked with a dialog. */
export function useDrop(take: (files: File[]) => void, accept: string) {
  const [over, setOver] = useState(false);
  const zone = {
    onDragOver: (event: React.DragEvent) => {
      event.preventDefault();
      setOver(true);
    },
    onDragLeave: () => setOver(false),
    onDrop: (event: React.DragEvent) => {
      event.preventDefault();
      setOver(false);
      take([...event.dataTransfer.files]);
    },
  };
  const picker = () => {
    const field = document.createElement("input");
    field.type = "file";
    field.multiple = true;
    field.accept = accept;
    field.onchange = () => take([...(field.files ?? [])]);
    field.click();
  };
  return { over, zone, picker };
}
