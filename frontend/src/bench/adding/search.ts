/** Finding steps, kept parts and macros by name, need or picture word. */

import MiniSearch from "minisearch";
import type { ValueKind } from "../../api/client";

/** The searched fields of a step, a part or a macro. */
export interface Findable {
  id: string;
  label: string;
  family: string;
  sentence: string;
  words: readonly string[];
  /** Names of choices of its values. */
  choices?: readonly string[];
}

/** Words without meaning for the search. */
const FILLERS = new Set(
  "a an and are as at by do effect for from give go i in into is it its like look make me my of off on onto out over so some that the then this to want with".split(
    " ",
  ),
);

/** The allowed error of a word, as a share of its letters: at first, and if nothing was found. */
const CLOSE = 0.2;
const FAR = 0.4;
/** The weight of each field. */
const BOOST = { label: 6, words: 4, sentence: 1.5, family: 1, choices: 0.7 };
/** A macro or a part ranks below a step that does the same. */
const MADE = 0.35;

/** A word without its grammatical ending: blurred, blurring and blurs become blur. */
export function stem(word: string): string {
  let root = word;
  for (const [end, instead] of [
    [/ies$/, "y"],
    [/([^s])s$/, "$1"],
    [/(ing|ed|er|y)$/, ""],
  ] as const) {
    const shorter = root.replace(end, instead);
    if (shorter.length > 2) root = shorter;
  }
  return root.replace(/(.)\1$/, "$1").replace(/e$/, "");
}

const parted = (text: string) =>
  text
    .toLowerCase()
    .split(/[^\p{L}\p{N}]+/u)
    .filter(Boolean);

/** The choice of a step's values that a text names, other than the default: "polygon" for a Shape.
 * */
export function choiceIn(values: readonly ValueKind[], text: string): [string, string] | null {
  const wish = ` ${parted(text).join(" ")} `;
  const named = values
    .filter((value) => value.type === "choice" && value.name !== "outside")
    .flatMap((value) =>
      (value.options ?? [])
        .filter((option) => option !== value.default && wish.includes(` ${option} `))
        .map((option): [string, string] => [value.name, option]),
    );
  return named.sort(([, one], [, two]) => two.length - one.length)[0] ?? null;
}

/** The results, best first. */
export interface Finding<T> {
  rows: T[];
  /** No entry has the typed words; these come near. */
  near: boolean;
}

/** A search over these entries. */
export function finder<T extends Findable>(all: readonly T[]): (text: string) => Finding<T> {
  const index = new MiniSearch<T>({
    fields: Object.keys(BOOST),
    extractField: (one, field) => {
      const held = one[field as keyof T];
      return Array.isArray(held) ? held.join(" ") : String(held ?? "");
    },
    tokenize: parted,
    processTerm: (word) => (FILLERS.has(word) ? null : stem(word)),
  });
  index.addAll([...all]);
  const known = new Map(all.map((one) => [one.id, one]));
  const stems = (text: string) =>
    parted(text)
      .filter((word) => !FILLERS.has(word))
      .map(stem)
      .join(" ");
  return (text) => {
    const wish = stems(text);
    const found = (fuzzy: number) =>
      index.search(text, {
        boost: BOOST,
        prefix: (term) => term.length > 1,
        fuzzy: (term) => (term.length > 3 ? fuzzy : 0),
        weights: { fuzzy: 0.3, prefix: 0.6 },
        boostDocument: (id) => {
          const one = known.get(id as string)!;
          // A person who types a complete name or need means exactly that.
          if (stems(one.label) === wish) return 20;
          const made = one.id.includes("@") || one.id.startsWith("part:") ? MADE : 1;
          const named = (words: readonly string[] = []) =>
            words.some((word) => stems(word) === wish);
          return (named(one.words) ? 4 : named(one.choices) ? 1.5 : 1) * made;
        },
      });
    const close = found(CLOSE);
    const meant = close.filter(({ terms, queryTerms }) =>
      terms.some((term) => queryTerms.some((typed) => term.startsWith(typed))),
    );
    const shown = [meant, close, found(FAR)].find((results) => results.length) ?? [];
    return {
      rows: shown.map(({ id }) => known.get(id as string)!),
      near: shown.length > 0 && shown !== meant,
    };
  };
}
