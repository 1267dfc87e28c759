import { NumberField } from "../../controls/NumberField";

interface Props {
  label: string;
  span: readonly [number, number];
  onCommit: (span: [number, number]) => unknown;
}

/** Two numbers to type: from one to the other. */
export function Span({ label, span: [low, high], onCommit }: Props) {
  return (
    <>
      <NumberField
        label={`${label} from`}
        value={low}
        onCommit={(from) => onCommit([from, high])}
      />
      to
      <NumberField label={`${label} to`} value={high} onCommit={(to) => onCommit([low, to])} />
    </>
  );
}
