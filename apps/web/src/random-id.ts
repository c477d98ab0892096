/** Eight random hexadecimal digits; pages that came over a plain network have them too, which `crypto.randomUUID` they have not. */
export const randomId = (): string =>
  [...crypto.getRandomValues(new Uint8Array(4))].map((byte) => byte.toString(16).padStart(2, '0')).join('');
