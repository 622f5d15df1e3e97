/** The labels of the berth booking in German and Polish. */
export const bookingLanguages = {
  de: {
    labels: {
      mark: 'Kennzeichen',
      lengthOverall: 'Länge über alles',
      berth: 'Liegeplatz',
      arrives: 'Ankunft',
      departs: 'Abreise',
      power: 'Landstrom',
      'crew.*': 'Crewmitglied',
      'crew.*.name': 'Name',
      'crew.*.born': 'Geboren',
      notes: 'Bemerkungen',
      gateCode: 'Torcode',
      gateCodeAgain: 'Torcode noch einmal',
      terms: 'Hafenordnung',
    },
  },
  pl: {
    labels: {
      mark: 'Numer rejestracyjny',
      lengthOverall: 'Długość całkowita',
      berth: 'Stanowisko',
      arrives: 'Przyjazd',
      departs: 'Wyjazd',
      power: 'Prąd z nabrzeża',
      crew: 'Załoga',
      'crew.*': 'Członek załogi',
      'crew.*.name': 'Imię i nazwisko',
      'crew.*.born': 'Data urodzenia',
      notes: 'Uwagi',
      gateCode: 'Kod bramy',
      gateCodeAgain: 'Kod bramy jeszcze raz',
      terms: 'Regulamin portu',
    },
  },
};
