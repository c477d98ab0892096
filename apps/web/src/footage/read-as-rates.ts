/** Rates that footage is offered to be read as, frames a second. */
export const READ_AS_RATES: readonly string[] = [
  '23.976',
  '24',
  '25',
  '29.97',
  '30',
  '48',
  '50',
  '59.94',
  '60',
  '100',
  '119.88',
  '120',
  '240',
];
