import { useQuery } from "@tanstack/react-query";
import { Select } from "antd";
import { asked } from "../api/asked";
import { isPicture } from "../api/kinds";

/** One of the library's clips and stills. */
export function ClipSelect(props: {
  label: string;
  value: string | undefined;
  onChoose: (id: string) => void;
}) {
  const materials = useQuery(asked.materials());
  const clips = (materials.data?.materials ?? []).filter(isPicture);
  return (
    <Select
      size="small"
      aria-label={props.label}
      title={props.label}
      placeholder="a plain card"
      popupMatchSelectWidth={false}
      value={props.value}
      options={clips.map((one) => ({ value: one.id, label: one.name }))}
      onChange={props.onChoose}
    />
  );
}
