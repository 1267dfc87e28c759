import { AutoComplete, Input, Select } from "antd";

/** The name, notes and tags of a part. */
export interface PartWords {
  name: string;
  collection: string;
  tags: string[];
  notes: string;
}

/** The fields for a part's name, notes and tags, when it is kept and later. */
export function PartFields(props: {
  words: PartWords;
  collections: readonly string[];
  /** The reason why the name cannot be used. */
  fault: string;
  onChange: (more: Partial<PartWords>) => void;
}) {
  const { words, collections, fault, onChange } = props;
  return (
    <>
      <label>
        Name
        <Input
          aria-label="Name of the part"
          autoFocus
          maxLength={120}
          value={words.name}
          onChange={(event) => onChange({ name: event.target.value })}
        />
      </label>
      {fault && (
        <p className="bad" role="status">
          {fault}
        </p>
      )}
      <label>
        Collection
        <AutoComplete
          aria-label="Collection of the part"
          className="wide"
          placeholder="none, or a name such as “Edges and rims”"
          value={words.collection}
          options={collections.filter(Boolean).map((value) => ({ value }))}
          onChange={(collection: string) => onChange({ collection })}
        />
      </label>
      <label>
        Tags
        <Select
          mode="tags"
          className="wide"
          aria-label="Tags of the part"
          open={false}
          suffixIcon={null}
          placeholder="words to find it by"
          value={words.tags}
          onChange={(tags: string[]) => onChange({ tags })}
        />
      </label>
      <label>
        Notes
        <Input.TextArea
          aria-label="Notes of the part"
          rows={2}
          maxLength={2000}
          placeholder="How to feed it, what it is good for"
          value={words.notes}
          onChange={(event) => onChange({ notes: event.target.value })}
        />
      </label>
    </>
  );
}
