/** A deviation with its sign, as it is read aloud; what rounds to nothing has none. */
export function signed(value: number, digits = 0): string {
  const text = Math.abs(value).toFixed(digits);
  return Number(text) === 0 ? "0" : `${value < 0 ? "−" : "+"}${text}`;
}
