/** The steps of the work, in their order. */
export const STEPS = ['measure', 'unwrap', 'artwork', 'layers', 'sheets', 'layup', 'price'] as const;
export type Step = (typeof STEPS)[number];
export const STEP_NAMES: Record<Step, string> = {
  measure: 'Measure',
  unwrap: 'Unwrap',
  artwork: 'Artwork',
  layers: 'Layers',
  sheets: 'Sheets',
  layup: 'Lay-up',
  price: 'Price',
};
/** What is worked out for each of them, in words. */
export const DOING: Record<Step, string> = {
  measure: 'Measuring',
  unwrap: 'Laying it flat',
  artwork: 'Laying the artwork on it',
  layers: 'Parting the colours into layers',
  sheets: 'Laying out the loads',
  layup: 'Writing down the steps',
  price: 'Counting what it costs',
};
