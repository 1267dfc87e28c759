import { useQuery } from "@tanstack/react-query";
import { Select } from "antd";
import { asked } from "../api/asked";
import type { Expected, FormatView } from "../api/client";
import { duration, size } from "../renders/size";
import styles from "./FormatFields.module.css";

interface Props {
  form: string;
  alphaOnly: boolean;
  quality: string | number | undefined;
  /** What each quality takes; undefined until that is known. */
  expected: readonly Expected[] | undefined;
  onForm: (slug: string) => void;
  onQuality: (quality: string | number) => void;
}

const GROUPS: readonly { shape: string; label: string }[] = [
  { shape: "film", label: "Film" },
  { shape: "sequence", label: "A picture a frame" },
  { shape: "animation", label: "Preview that moves" },
  { shape: "still", label: "One picture" },
];

/** Fields that choose a format and, where it has one, its quality. */
export function FormatFields({ form, alphaOnly, quality, expected, onForm, onQuality }: Props) {
  const formats = useQuery(asked.formats()).data?.formats ?? [];
  const chosen = formats.find((one) => one.slug === form);
  const offered = formats.filter((one) => one.there && (one.alpha || !alphaOnly));
  const group = (one: FormatView) => (one.shape === "sheet" ? "still" : one.shape);
  const words = chosen?.quality && Object.entries(chosen.quality.words);
  return (
    <div className={styles.fields}>
      <label htmlFor="render-format">Format</label>
      <Select
        id="render-format"
        aria-label="Format"
        value={form}
        onChange={onForm}
        listHeight={420}
        showSearch
        optionFilterProp="label"
        options={GROUPS.map(({ shape, label }) => ({
          label,
          options: offered
            .filter((one) => group(one) === shape)
            .map((one) => ({ value: one.slug, label: one.label })),
        }))}
      />
      {chosen?.quality && words && (
        <>
          <label htmlFor="render-quality">Quality</label>
          <Select
            id="render-quality"
            aria-label="Quality"
            value={quality ?? chosen.quality.default}
            onChange={onQuality}
            options={words.map(([word, number]) => ({
              value: word,
              label: `${word[0]?.toUpperCase()}${word.slice(1)} (${number})${taking(expected, word)}`,
            }))}
          />
        </>
      )}
      <p className="soft">
        {chosen?.sentence}
        {!chosen?.quality && taking(expected, "").replace(" · ", " It takes ")}
      </p>
    </div>
  );
}

/** What a quality takes, in words; empty until it is known. */
function taking(expected: readonly Expected[] | undefined, quality: string): string {
  const found = expected?.find((one) => one.quality === quality);
  return found ? ` · about ${size(found.bytes)}, ${duration(found.seconds)}` : "";
}
