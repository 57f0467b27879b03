/**
 * Lengths written for reading, as the core writes them (`wimple_core.figures`; a test holds the two together).
 * Reading what a person typed is the core's alone.
 */
import type { LengthStyle } from './api/client';

const MM_PER_INCH = 25.4;
const MARKS = 64;

function fixed(value: number, digits: number): string {
  const text = value.toFixed(digits);
  return Number(text) === 0 ? text.replace('-', '') : text;
}

function fraction(inches: number): string {
  const marks = Math.floor(Math.abs(inches) * MARKS + 0.5);
  const whole = Math.floor(marks / MARKS);
  let top = marks % MARKS;
  let bottom = MARKS;
  const sign = inches < 0 && marks ? '-' : '';
  if (!top) return `${sign}${whole}`;
  while (top % 2 === 0) {
    top /= 2;
    bottom /= 2;
  }
  return whole ? `${sign}${whole} ${top}/${bottom}` : `${sign}${top}/${bottom}`;
}

export const unitOf = (style: LengthStyle) => (style === 'mm' ? 'mm' : 'in');

/** Millimetres to one of the workshop's units. */
export const mmPerUnit = (style: LengthStyle) => (style === 'mm' ? 1 : MM_PER_INCH);

/** A length without its unit. */
export function lengthText(mm: number, style: LengthStyle, digits = 1): string {
  if (style === 'mm') return fixed(mm, digits);
  return style === 'in_decimal' ? fixed(mm / MM_PER_INCH, digits + 2) : fraction(mm / MM_PER_INCH);
}

/** A length with its unit. */
export const length = (mm: number, style: LengthStyle, digits = 1) =>
  `${lengthText(mm, style, digits)} ${unitOf(style)}`;

/** A length for a field: every figure it has, up to three decimals; a fraction only where it is exact. */
export function fieldText(mm: number, style: LengthStyle): string {
  if (style === 'mm') return String(Number(mm.toFixed(3)));
  const inches = mm / MM_PER_INCH;
  const exact = Math.abs(inches * MARKS - Math.round(inches * MARKS)) < 0.005;
  return style === 'in_fraction' && exact ? fraction(inches) : String(Number(inches.toFixed(4)));
}

const ML_PER_FLUID_OUNCE = 29.5735295625;
export const volumeUnit = (style: LengthStyle) => (style === 'mm' ? 'ml' : 'fl oz');
export const volumeText = (ml: number, style: LengthStyle) =>
  style === 'mm' ? String(Number(ml.toFixed(1))) : String(Number((ml / ML_PER_FLUID_OUNCE).toFixed(2)));
