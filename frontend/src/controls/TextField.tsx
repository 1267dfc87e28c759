import { Input } from "antd";

interface TextFieldProps {
  label: string;
  value: string;
  className?: string;
  /** Whether the text may run over several lines. */
  lines?: boolean;
  onCommit: (value: string) => void;
}

/** Text that is taken over when the field is left; Enter starts a new line where there may be some. */
export function TextField({ label, value, className, lines, onCommit }: TextFieldProps) {
  const shared = {
    className,
    size: "small" as const,
    "aria-label": label,
    defaultValue: value,
    onBlur: (event: { target: { value: string } }) => {
      if (event.target.value !== value) onCommit(event.target.value);
    },
  };
  return lines ? (
    <Input.TextArea key={value} {...shared} autoSize={{ minRows: 1, maxRows: 8 }} />
  ) : (
    <Input key={value} {...shared} onPressEnter={(event) => event.currentTarget.blur()} />
  );
}
