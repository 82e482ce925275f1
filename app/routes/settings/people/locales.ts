/** How numbers and dates are written for somebody: what this machine can format. */
export const LOCALES = [
  'en-GB',
  'en-US',
  'de-DE',
  'de-AT',
  'de-CH',
  'fr-FR',
  'es-ES',
  'it-IT',
  'nl-NL',
  'sv-SE',
  'da-DK',
  'nb-NO',
  'fi-FI',
  'pl-PL',
  'pt-PT',
  'pt-BR',
  'en-IN',
  'ja-JP',
];

/** What a locale is called: `en-GB` is English (United Kingdom). */
export const languageName = (locale: string): string =>
  new Intl.DisplayNames('en-GB', { type: 'language', languageDisplay: 'standard' }).of(locale) ?? locale;
