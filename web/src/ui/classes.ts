/** Class names of a component: words that its own style sheets know are theirs, all others hold everywhere (`theme.css`, Bootstrap). */
export function classesOf(...sheets: Record<string, string>[]) {
  const known = Object.assign({}, ...sheets) as Record<string, string>;
  return (words: string | undefined | false) =>
    (words || "")
      .split(/\s+/)
      .filter(Boolean)
      .map((word) => known[word] ?? word)
      .join(" ");
}
