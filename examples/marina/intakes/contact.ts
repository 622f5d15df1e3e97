import { atLeastOneOf, email, foldCase, group, phone, text, trim } from 'jestril';

/** How to reach somebody: by e-mail or by phone. Shared by every intake that asks for it. */
export const contact = group(
  'Contact',
  {
    email: text('E-mail', trim(), foldCase(), email()).orAbsent(),
    phone: text('Phone', trim(), phone()).orAbsent(),
  },
  atLeastOneOf('email', 'phone'),
);
