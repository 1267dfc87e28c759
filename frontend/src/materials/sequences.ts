const NUMBERED = /^(.*?)(\d+)(\.\w+)$/;

/** Groups of files to bring in: numbered pictures of one name together, others alone. */
export function sequences(files: readonly File[]): File[][] {
  const groups = new Map<string, File[]>();
  for (const file of files) {
    const match = NUMBERED.exec(file.name);
    const picture = /\.(png|jpe?g|webp|tiff?|exr)$/i.test(file.name);
    const key = match && picture ? `${match[1]}#${match[3]?.toLowerCase()}` : `${file.name}!`;
    groups.set(key, [...(groups.get(key) ?? []), file]);
  }
  return [...groups.values()];
}

/** The name of a group of files while it is brought in. */
export function named(group: readonly File[]): string {
  const first = group[0]?.name ?? "";
  return group.length > 1 ? `${group.length} pictures from ${first}` : first;
}
