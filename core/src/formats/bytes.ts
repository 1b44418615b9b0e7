/** A growing array of doubles. */
export class DoubleList {
  data = new Float64Array(1024);
  length = 0;

  push(value: number): void {
    if (this.length === this.data.length) {
      const grown = new Float64Array(this.data.length * 2);
      grown.set(this.data);
      this.data = grown;
    }
    this.data[this.length++] = value;
  }

  take(): Float64Array {
    return this.data.slice(0, this.length);
  }
}

/** A growing array of whole numbers. */
export class IntList {
  data = new Int32Array(1024);
  length = 0;

  push(value: number): void {
    if (this.length === this.data.length) {
      const grown = new Int32Array(this.data.length * 2);
      grown.set(this.data);
      this.data = grown;
    }
    this.data[this.length++] = value;
  }

  take(): Int32Array {
    return this.data.slice(0, this.length);
  }
}

const powers = Float64Array.from({ length: 23 }, (_, k) => 10 ** k);

/**
 * Reads the decimal number in bytes[from … to): exact for up to 15 digits and small exponents without making a string (a product or
 * quotient of two exact doubles is rounded once), else by the platform's own parser. NaN if it is not a number.
 */
export function parseDouble(bytes: Uint8Array, from: number, to: number): number {
  let at = from;
  let negative = false;
  if (bytes[at] === 45 || bytes[at] === 43) negative = bytes[at++] === 45;
  let mantissa = 0;
  let digits = 0;
  let scale = 0;
  let any = false;
  for (; at < to; at++) {
    const d = bytes[at]! - 48;
    if (d < 0 || d > 9) break;
    any = true;
    if (digits > 0 || d > 0) digits++;
    mantissa = mantissa * 10 + d;
  }
  if (bytes[at] === 46 && at < to) {
    for (at++; at < to; at++) {
      const d = bytes[at]! - 48;
      if (d < 0 || d > 9) break;
      any = true;
      if (digits > 0 || d > 0) digits++;
      mantissa = mantissa * 10 + d;
      scale--;
    }
  }
  if (!any) return NaN;
  if (at < to && (bytes[at] === 101 || bytes[at] === 69)) {
    let exponent = 0;
    let down = false;
    at++;
    if (bytes[at] === 45 || bytes[at] === 43) down = bytes[at++] === 45;
    const first = at;
    for (; at < to; at++) {
      const d = bytes[at]! - 48;
      if (d < 0 || d > 9) break;
      exponent = Math.min(9999, exponent * 10 + d);
    }
    if (at === first) return NaN;
    scale += down ? -exponent : exponent;
  }
  if (at !== to) return NaN;
  if (digits > 15 || scale < -22 || scale > 22) return Number(latin1(bytes, from, to));
  const value = scale < 0 ? mantissa / powers[-scale]! : mantissa * powers[scale]!;
  return negative ? -value : value;
}

export function latin1(bytes: Uint8Array, from: number, to: number): string {
  // joining one by one takes seconds from some megabytes on
  if (to - from > 64) return new TextDecoder('latin1').decode(bytes.subarray(from, to));
  let text = '';
  for (let k = from; k < to; k++) text += String.fromCharCode(bytes[k]!);
  return text;
}

/** How many bytes a UTF-8 mark at the beginning takes: 3 or 0. */
export const utf8Mark = (bytes: Uint8Array): number => (bytes[0] === 0xef && bytes[1] === 0xbb && bytes[2] === 0xbf ? 3 : 0);

/** The text of a stretch of bytes, as UTF-8. */
export const utf8 = (bytes: Uint8Array, from = 0, to = bytes.length): string => new TextDecoder().decode(bytes.subarray(from, to));
