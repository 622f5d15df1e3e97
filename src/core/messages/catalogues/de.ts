import type { Catalogue } from './catalogue.ts';
import type { Words } from './words.ts';

const BOUND = '{kind, select, day {{bound, date, long}} time {{bound, time, short}} other {{bound, date, long} {bound, time, short} UTC}}';
const ENTRIES = (slot: string) => `{${slot}, plural, one {# Eintrag} other {# Einträge}}`;
const CHARACTERS = (slot: string) => `{${slot}, plural, one {# Zeichen} other {# Zeichen}}`;
const DAYS = (slot: string) => `{${slot}, plural, one {# Tag} other {# Tage}}`;
const DIGITS = (slot: string) => `{${slot}, plural, one {# Ziffer} other {# Ziffern}}`;
const BYTES = (slot: string) => `{${slot}, plural, one {# Byte} other {# Byte}}`;

/** German. */
export const de = {
  locale: 'de',
  isOurs: true as const,
  messages: {
    needed: '{field}: Bitte ausfüllen.',
    blank: '{field}: Bitte nicht leer lassen.',
    readable: '{field}: Bitte nur einmal angeben.',
    stranger: 'Ein Feld „{key}“ gibt es hier nicht.',
    known:
      '{fields_count, plural, one {{fields}: Bitte etwas angeben, das es gibt.} other {{fields}: Bitte so angeben, dass es einen Eintrag dazu gibt.}}',
    tag: '{field}: Möglich ist {options}.',
    'too-many': `{field}: Bitte höchstens ${ENTRIES('most')} angeben.`,
    'too-many/work': '{field}: Das sind zusammen zu viele Einträge, um sie zu prüfen.',
    'readable/submission': 'Bitte ein Objekt mit benannten Feldern senden.',
    'readable/exact/long': '{field}: Bitte höchstens 400 Ziffern vor und nach dem Komma angeben.',
    'readable/text': '{field}: Bitte Text ohne unlesbare Zeichen angeben.',
    'readable/whole': '{field}: Bitte eine ganze Zahl angeben, etwa 12.',
    'readable/whole/text': '{field}: Bitte eine ganze Zahl als Zahl senden und nicht als Text.',
    'readable/decimal': '{field}: Bitte eine Zahl angeben, etwa 12.5.',
    'readable/decimal/text': '{field}: Bitte eine Zahl als Zahl senden und nicht als Text.',
    'readable/exact': '{field}: Bitte eine Zahl angeben, etwa 12.50.',
    'readable/flag': '{field}: Bitte ja oder nein angeben (true oder false).',
    'readable/flag/text': '{field}: Bitte true oder false senden, nicht als Text.',
    'readable/choice': '{field}: Möglich ist {options}.',
    'readable/day': '{field}: Bitte einen Tag angeben, den es gibt, als Jahr-Monat-Tag, etwa 2031-05-28.',
    'readable/day/date': '{field}: Bitte einen Tag als Text angeben, etwa 2031-05-28, und kein Date-Objekt.',
    'readable/moment': '{field}: Bitte Datum und Uhrzeit mit Zeitverschiebung angeben, etwa 2031-05-28T09:30:00+02:00.',
    'readable/moment/date': '{field}: Bitte Datum und Uhrzeit als Text angeben, etwa 2031-05-28T09:30:00+02:00, und kein Date-Objekt.',
    'readable/time-of-day': '{field}: Bitte eine Uhrzeit angeben, etwa 09:30.',
    'readable/list': '{field}: Bitte eine Liste angeben.',
    'readable/group': '{field}: Bitte ein Objekt mit benannten Feldern angeben.',
    'readable/table': '{field}: Bitte ein Objekt mit benannten Einträgen angeben.',
    'readable/one-of-shapes': '{field}: Bitte ein Objekt mit benannten Feldern angeben.',
    'readable/inline-upload': '{field}: Bitte eine Datei als Objekt mit name, mediaType und base64 angeben.',
    'readable/json-value': '{field}: Bitte einen Wert in JSON angeben.',
    'readable/upload': '{field}: Bitte eine Datei angeben.',
    length: `{of, select, list {{limits, select,
      most {{field}: Bitte höchstens ${ENTRIES('max')} angeben.}
      least {{field}: Bitte mindestens ${ENTRIES('min')} angeben.}
      exactly {{field}: Bitte genau ${ENTRIES('max')} angeben.}
      other {{field}: Bitte {min, number} bis ${ENTRIES('max')} angeben.}
    }} other {{limits, select,
      most {{field}: Bitte höchstens ${CHARACTERS('max')} angeben.}
      least {{field}: Bitte mindestens ${CHARACTERS('min')} angeben.}
      exactly {{field}: Bitte genau ${CHARACTERS('max')} angeben.}
      other {{field}: Bitte {min, number} bis ${CHARACTERS('max')} angeben.}
    }}}`,
    pattern: '{field}: Bitte so angeben: {description}.',
    email: '{field}: Bitte eine E-Mail-Adresse angeben, etwa name@example.org.',
    between: '{field}: Bitte {min, number} bis {max, number} angeben.',
    'at-least': '{field}: Bitte mindestens {min, number} angeben.',
    'at-most': '{field}: Bitte höchstens {max, number} angeben.',
    above: '{field}: Bitte mehr als {limit, number} angeben.',
    below: '{field}: Bitte weniger als {limit, number} angeben.',
    places: `{places, plural,
      =0 {{field}: Bitte ohne Nachkommastellen angeben.}
      one {{field}: Höchstens # Nachkommastelle ist möglich.}
      other {{field}: Höchstens # Nachkommastellen sind möglich.}
    }`,
    precision: `{field}: Bitte höchstens ${DIGITS('whole')} vor und ${DIGITS('places')} nach dem Komma angeben.`,
    'multiple-of': '{field}: Bitte ein Vielfaches von {step, number} angeben.',
    'is-true': '{field}: Bitte bestätigen.',
    'is-false': '{field}: Bitte nicht ankreuzen.',
    'not-before': `{field}: Nicht vor ${BOUND}.`,
    'not-after': `{field}: Nicht nach ${BOUND}.`,
    before: `{field}: Nur vor ${BOUND}.`,
    after: `{field}: Nur nach ${BOUND}.`,
    'years-old': '{field}: Muss mindestens {years, plural, one {# Jahr} other {# Jahre}} zurückliegen.',
    'on-weekdays': '{field}: Möglich ist {names}.',
    distinct: '{field}: Bitte keinen Eintrag doppelt angeben; Eintrag {entry} ist derselbe wie Eintrag {sameAs}.',
    'must-contain': '{field}: Bitte auch {entry} angeben.',
    'upload-size': `{fault, select, small {{field}: Die Datei muss mindestens ${BYTES('min')} haben.} other {{field}: Die Datei darf höchstens ${BYTES('max')} haben.}}`,
    'json-types': '{field}: Bitte JSON vom Typ {types} angeben.',
    'media-types': '{field}: Bitte eine Datei vom Typ {types} angeben.',
    letters: '{of, select, ascii {{field}: Bitte nur Buchstaben von A bis Z angeben.} other {{field}: Bitte nur Buchstaben angeben.}}',
    'letters-and-digits':
      '{of, select, ascii {{field}: Bitte nur Buchstaben von A bis Z und Ziffern angeben.} other {{field}: Bitte nur Buchstaben und Ziffern angeben.}}',
    digits: '{of, select, ascii {{field}: Bitte nur Ziffern von 0 bis 9 angeben.} other {{field}: Bitte nur Ziffern angeben.}}',
    'upper-case': '{field}: Bitte in Großbuchstaben angeben.',
    'lower-case': '{field}: Bitte in Kleinbuchstaben angeben.',
    'character-mix': '{field}: Bitte mindestens {least, number} davon mischen: {list}.',
    contains: '{field}: Bitte mit „{part}“ darin angeben.',
    without: '{field}: Bitte ohne „{part}“ angeben.',
    'starts-with': '{field}: Muss mit „{part}“ beginnen.',
    'ends-with': '{field}: Muss mit „{part}“ enden.',
    allowed: '{field}: Möglich ist {values}.',
    forbidden: '{field}: Nicht möglich ist {values}.',
    'web-address': '{field}: Bitte eine Webadresse angeben, die mit {schemes} beginnt, etwa https://example.org/pier.',
    'host-name': '{field}: Bitte einen Rechnernamen angeben, etwa quay.example.org.',
    'ip-address':
      '{version, select, 4 {{field}: Bitte eine IPv4-Adresse angeben, etwa 192.0.2.7.} 6 {{field}: Bitte eine IPv6-Adresse angeben, etwa 2001:db8::7.} other {{field}: Bitte eine IP-Adresse angeben, etwa 192.0.2.7.}}',
    phone: '{field}: Bitte eine Telefonnummer mit Landesvorwahl angeben, etwa +4712345678.',
    uuid: '{field}: Bitte eine UUID angeben, etwa 01890a5d-ac96-774b-bcce-b302099a8057.',
    'card-number': '{field}: Bitte eine Kartennummer nur aus Ziffern angeben und auf Tippfehler prüfen.',
    iban: '{field}: Bitte eine IBAN in Großbuchstaben ohne Leerzeichen angeben und auf Tippfehler prüfen.',
    'language-tag': '{field}: Bitte ein Sprachkürzel angeben, etwa nb-NO.',
    'time-zone': '{field}: Bitte eine Zeitzone angeben, etwa Europe/Oslo.',
    'currency-code': '{field}: Bitte ein Währungskürzel angeben, etwa NOK.',
    'country-code': '{field}: Bitte ein Länderkürzel angeben, etwa NO.',
    base64: '{field}: Bitte Text in Base64 angeben.',
    'json-text': '{field}: Bitte JSON-Text angeben.',
    same: '{second}: Bitte dasselbe angeben wie bei {first}.',
    different: '{second}: Bitte etwas anderes angeben als bei {first}.',
    'in-order':
      '{kind, select, number {{later}: Muss mehr sein als {earlier}.} numberOrEqual {{later}: Darf nicht weniger sein als {earlier}.} timeOrEqual {{later}: Darf nicht vor {earlier} liegen.} other {{later}: Muss nach {earlier} liegen.}}',
    'days-apart': `{limits, select,
      most {{to}: Höchstens ${DAYS('most')} nach {from}.}
      least {{to}: Mindestens ${DAYS('least')} nach {from}.}
      exactly {{to}: Genau ${DAYS('most')} nach {from}.}
      other {{to}: {least, number} bis ${DAYS('most')} nach {from}.}
    }`,
    together: 'Bitte zusammen angeben oder alle weglassen: {fields}.',
    'exactly-one-of': 'Bitte genau eines davon ausfüllen: {fields}.',
    'total-at-most': '{fields}: Ergibt {total, number}, möglich ist höchstens {limit, number}.',
    among: '{value}: Bitte etwas angeben, das unter {those} steht.',
    absent: '{field}: Bitte weglassen.',
    'at-least-one-of': 'Bitte mindestens eines davon ausfüllen: {fields}.',
    unique: `{takenBy, select,
      row {{fields_count, plural, one {{fields}: Steht schon in Zeile {row}.} other {{fields}: Stehen zusammen schon in Zeile {row}.}}}
      refusedRow {{fields_count, plural, one {{fields}: Steht auch in Zeile {row}, die nicht angenommen wurde.} other {{fields}: Stehen zusammen auch in Zeile {row}, die nicht angenommen wurde.}}}
      entry {{fields_count, plural, one {{fields}: Steht schon in Eintrag {entry}.} other {{fields}: Stehen zusammen schon in Eintrag {entry}.}}}
      other {{fields_count, plural, one {{fields}: Ist schon vergeben.} other {{fields}: Sind zusammen schon vergeben.}}}
    }`,
    'stored-choice': '{listed, select, true {{fields}: Bitte {options} angeben.} other {{fields}: Bitte etwas Angebotenes angeben.}}',
    unexpired: `{kind, select,
      day {{fields}: Abgelaufen, gültig war es bis {until, date, long}.}
      moment {{fields}: Abgelaufen seit {until, date, long}, {until, time, short} UTC.}
      other {{fields}: Abgelaufen.}
    }`,
    'unchanged-since': 'Jemand anders hat das inzwischen geändert; bitte noch einmal ansehen.',
    'no-overlap': `{takenBy, select,
      row {{fields}: Überschneidet sich mit Zeile {row}.}
      refusedRow {{fields}: Überschneidet sich auch mit Zeile {row}, die nicht angenommen wurde.}
      entry {{fields}: Überschneidet sich mit Eintrag {entry}.}
      other {{fields}: Überschneidet sich mit etwas, das es schon gibt.}
    }`,
    'on-weekdays/monday': 'Montag',
    'on-weekdays/tuesday': 'Dienstag',
    'on-weekdays/wednesday': 'Mittwoch',
    'on-weekdays/thursday': 'Donnerstag',
    'on-weekdays/friday': 'Freitag',
    'on-weekdays/saturday': 'Samstag',
    'on-weekdays/sunday': 'Sonntag',
    'character-mix/upper': 'Großbuchstaben',
    'character-mix/lower': 'Kleinbuchstaben',
    'character-mix/digit': 'Ziffern',
    'character-mix/other': 'andere Zeichen',
    'problem/unreadable': 'Die Anfrage ist nicht lesbar.',
    'problem/wrong-method': 'Das ist unter dieser Adresse nicht möglich.',
    'problem/other-origin': 'Das wurde von einer anderen Website gesendet.',
    'problem/unknown-caller': 'Bitte erst anmelden.',
    'problem/not-allowed': 'Das ist Ihnen nicht erlaubt.',
    'problem/nothing-there': 'Unter dieser Adresse gibt es nichts.',
    'problem/rejected': 'Einiges davon kann so nicht angenommen werden.',
    'problem/lost-race': 'Jemand anderes war schneller.',
    'problem/undecided': 'Das konnte gerade nicht geprüft werden. Bitte gleich noch einmal senden.',
    'problem/unfit-answer': 'Die Antwort konnte nicht gegeben werden.',
    'page/signed-out': 'Bitte wieder anmelden und noch einmal senden.',
    'page/too-large': 'Das ist zu groß zum Senden; vielleicht geht eine kleinere Datei.',
    'page/too-often': 'Das war zu oft. Bitte einen Moment warten.',
    'page/broken': 'Etwas ist schiefgegangen. Nichts ist verloren; bitte gleich noch einmal senden.',
    'page/refused': 'Das wurde nicht angenommen.',
    'page/unreachable': 'Der Server ist nicht zu erreichen. Nichts ist verloren; bitte gleich noch einmal senden.',
    'page/sent': 'Das wurde schon gesendet. Um es noch einmal zu senden, bitte zuerst etwas ändern.',
    'page/slow': 'Der Server hat noch nicht geantwortet. Nichts ist verloren; bitte noch etwas warten.',
    'file-content': '{field}: Der Inhalt muss der einer Datei vom Typ {types} sein.',
  },
} satisfies Catalogue;

/** The words of descriptions. */
export const deWords: Words = {
  language: 'de',
  fields: 'Felder',
  field: 'Feld',
  kind: 'Art',
  presence: 'Angabe',
  rules: 'Regeln',
  rule: 'Regel',
  given: 'Von der Anwendung vorgegeben',
  betweenFields: 'Regeln zwischen Feldern',
  stored: 'Regeln über Gespeichertes',
  outside: 'Auskünfte von außen',
  example: 'Beispiel',
  accepted: 'Angenommen',
  refused: 'Abgelehnt',
  noExample: 'kein Beispiel gefunden',
  collections: 'Was nachgeschlagen wird',
  collection: 'Sammlung',
  key: 'Schlüssel',
  columns: 'Spalten',
  needs: 'Bedingung',
  uniqueOver: 'eindeutig',
  graph: 'Was wovon liest',
  needed: 'nötig',
  optional: 'darf fehlen',
  otherwise: 'sonst',
  computed: 'sonst berechnet',
  emptyList: 'sonst keine',
  secret: 'geheim',
  leftOut: 'wird nicht aufbewahrt',
  nullAllowed: 'oder null',
  options: 'eines von',
  cleaned: 'bereinigt',
  warning: 'nur eine Warnung',
  trial: 'auf Probe, ohne Wirkung',
  on: 'bei',
  when: 'wenn',
  not: 'nicht',
  and: 'und',
  or: 'oder',
  is: 'ist',
  isThere: 'ist angegeben',
  from: 'ab',
  until: 'bis',
  strangersRefused: 'Felder, die hier nicht stehen, werden abgelehnt.',
  zone: 'Zeitzone',
  occasions: 'Anlässe',
  storedIn: 'Gespeichert in',
  withStored: 'gespeichert',
  nothing: 'nichts',
  several: 'je',
  withheld: 'zurückgehalten',
  noRow: 'keine Zeile',
  oneRow: 'eine solche Zeile',
  characters: (count) => `${count} Zeichen`,
  relative({ relative, by }) {
    if (relative === 'yearsBeforeToday') return `der Tag ${by} Jahre vor heute`;
    if (relative === 'now') return by === 0 ? 'jetzt' : `${Math.abs(by)} Minuten ${by < 0 ? 'vor' : 'nach'} jetzt`;
    return by === 0 ? 'heute' : `${Math.abs(by)} Tage ${by < 0 ? 'vor' : 'nach'} heute`;
  },
  kinds: {
    text: 'Text',
    whole: 'ganze Zahl',
    decimal: 'Zahl',
    exact: 'genaue Zahl',
    flag: 'ja oder nein',
    choice: 'Auswahl',
    day: 'Tag',
    moment: 'Datum und Uhrzeit',
    'time-of-day': 'Uhrzeit',
    group: 'Gruppe',
    list: 'Liste',
    table: 'Tabelle',
    'one-of-shapes': 'eine von mehreren Formen',
    upload: 'Datei',
    'json-value': 'JSON',
    'inline-upload': 'Datei in JSON',
  },
};
