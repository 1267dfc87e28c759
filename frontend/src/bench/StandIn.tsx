import { useQuery } from "@tanstack/react-query";
import { Select } from "antd";
import { api, type DraftView, type Step } from "../api/client";
import type { EditDraft } from "./useDraft";

/** Which material stands in for a slot while the maker builds; the editor brings their own. */
export function StandIn(props: { draft: DraftView; step: Step; edit: EditDraft }) {
  const { draft, step, edit } = props;
  const found = useQuery({ queryKey: ["materials"], queryFn: api.materials });
  const name = String(step.values?.["slot"] ?? "clip");
  const slot = (draft.effect.slots ?? []).find((one) => one.id === name);
  if (!slot) return null;
  return (
    <div className="value-row" title="What is shown here while you build.">
      <span className="value-label">stand-in</span>
      <Select
        className="value-wide"
        size="small"
        aria-label={`Stand-in for ${slot.name}`}
        placeholder="a plain card"
        popupMatchSelectWidth={false}
        value={slot.stand_in ?? undefined}
        allowClear
        options={(found.data?.materials ?? [])
          .filter((one) => one.facts.kind !== "font")
          .map((one) => ({ value: one.id, label: one.name }))}
        onChange={(stand_in?: string) =>
          void edit({ do: "set-slot", slot: slot.id, stand_in: stand_in ?? null })
        }
      />
    </div>
  );
}
