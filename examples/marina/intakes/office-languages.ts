/** The labels of the front office's other forms in German. */
const contact = (prefix: string) => ({ [prefix]: 'Kontakt', [`${prefix}.email`]: 'E-Mail', [`${prefix}.phone`]: 'Telefon' });

export const signUpLanguages = {
  de: {
    labels: {
      name: 'Name',
      ...contact('contact'),
      born: 'Geboren',
      passphrase: 'Passphrase',
      passphraseAgain: 'Passphrase noch einmal',
      terms: 'Bedingungen des Hafens',
    },
  },
};

export const registrationLanguages = {
  de: {
    labels: {
      mark: 'Kennzeichen',
      name: 'Name des Bootes',
      lengthOverall: 'Länge über alles',
      beam: 'Breite',
      electric: 'Elektroantrieb',
      insuredUntil: 'Versichert bis',
      ...contact('skipper'),
    },
  },
};

export const powerLanguages = {
  de: {
    labels: {
      mark: 'Kennzeichen',
      plug: 'Stecker',
      price: 'Preis einer Kilowattstunde',
      amount: 'Kilowattstunden',
      limit: 'Obergrenze',
      ...contact('contact'),
    },
  },
};
