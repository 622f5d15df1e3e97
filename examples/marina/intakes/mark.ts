import { pattern, text, trim } from 'jestril';

/** The registration mark of a vessel, wherever it is asked for. */
export const registrationMark = text(
  'Registration mark',
  trim(),
  pattern(/^[A-Z]{2}-\d{4}$/, {
    en: 'two capital letters, a dash and four digits',
    de: 'zwei Großbuchstaben, ein Strich und vier Ziffern',
    pl: 'dwie wielkie litery, kreska i cztery cyfry',
  }),
);
