/** A web address that can be fetched, without its fragment; null for anything else. */
export function webAddress(text: string): URL | null {
  if (!URL.canParse(text.trim())) return null;
  const address = new URL(text.trim());
  if (address.protocol !== 'http:' && address.protocol !== 'https:') return null;
  if (address.username !== '' || address.password !== '') return null;
  address.hash = '';
  return address;
}

/** Whether an address is one of the web, where it leads to be seen. */
export function isWebAddress(address: string): boolean {
  return /^https?:\/\//i.test(address);
}
