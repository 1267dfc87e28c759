import { Input } from "antd";
import { useState } from "react";

interface TextFieldProps {
  label: string;
  value: string;
  className?: string;
  /** Whether the text may run over several lines. */
  lines?: boolean;
  /** Resolves when the text is saved or refused. */
  onCommit: (value: string) => unknown;
  /** The largest number of characters. */
  most?: number | undefined;
}

/** Text that is saved when the field loses focus; Enter starts a new line if several are allowed.
 * */
export function TextField({ label, value, className, lines, onCommit, most }: TextFieldProps) {
  const [typed, setTyped] = useState<string | null>(null);
  const shared = {
    className,
    size: "small" as const,
    "aria-label": label,
    value: typed ?? value,
    maxLength: most,
    onChange: (event: { target: { value: string } }) => setTyped(event.target.value),
    onBlur: () => {
      if (typed === null || typed === value) return setTyped(null);
      // After a refusal it shows the saved text again.
      void Promise.resolve(onCommit(typed)).finally(() => setTyped(null));
    },
  };
  return lines ? (
    <Input.TextArea {...shared} autoSize={{ minRows: 1, maxRows: 8 }} />
  ) : (
    <Input {...shared} onPressEnter={(event) => event.currentTarget.blur()} />
  );
}
