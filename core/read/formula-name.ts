/** How a field is called in formulas: its words joined by `_`. */
export function nameInFormula(label: string): string {
  return label
    .trim()
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]+/gu, '_')
    .replace(/^(?=\d)/, '_');
}
