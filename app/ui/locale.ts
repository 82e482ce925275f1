import { createContext, useContext } from 'react';

/** The reader's locale (BCP 47), for what a field shows and takes. */
export const LocaleContext = createContext('en-GB');

export const useLocale = (): string => useContext(LocaleContext);
