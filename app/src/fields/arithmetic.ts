/**
 * The value of an expression of numbers with + − * / ^ and brackets ("1024/2", "8 + 4"), or null if it is none. A comma counts as a decimal
 * point.
 */
export function evaluate(text: string): number | null {
  const source = text.replace(/,/g, '.').replace(/[×·]/g, '*').replace(/÷/g, '/').replace(/−/g, '-').replace(/\s+/g, '');
  let at = 0;
  const peek = () => source[at] ?? '';

  function sum(): number {
    let value = product();
    while (peek() === '+' || peek() === '-') value = source[at++] === '+' ? value + product() : value - product();
    return value;
  }
  function product(): number {
    let value = power();
    while (peek() === '*' || peek() === '/') value = source[at++] === '*' ? value * power() : value / power();
    return value;
  }
  function power(): number {
    const base = unary();
    if (peek() !== '^') return base;
    at++;
    return base ** power();
  }
  function unary(): number {
    if (peek() === '-' || peek() === '+') return source[at++] === '-' ? -unary() : unary();
    if (peek() === '(') {
      at++;
      const value = sum();
      if (source[at++] !== ')') return NaN;
      return value;
    }
    const match = /^\d*\.?\d+(e[+-]?\d+)?|^\d+\.?/i.exec(source.slice(at));
    if (!match) return NaN;
    at += match[0].length;
    return Number(match[0]);
  }

  if (source === '' || source.length > 200) return null;
  const value = sum();
  return at === source.length && Number.isFinite(value) ? value : null;
}
