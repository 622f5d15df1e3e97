import type { Language } from './language.ts';
import type { Words } from './words.ts';

const BOUND = '{kind, select, day {{bound, date, long}} time {{bound, time, short}} other {{bound, date, long} {bound, time, short} UTC}}';
// After "najwyżej" and "co najmniej" the counted noun stands in the accusative; one, few and many differ.
const ENTRIES = (slot: string) => `{${slot}, plural, one {# pozycję} few {# pozycje} many {# pozycji} other {# pozycji}}`;
const CHARACTERS = (slot: string) => `{${slot}, plural, one {# znak} few {# znaki} many {# znaków} other {# znaku}}`;
const DAYS = (slot: string) => `{${slot}, plural, one {# dzień} few {# dni} many {# dni} other {# dnia}}`;
const DIGITS = (slot: string) => `{${slot}, plural, one {# cyfrę} few {# cyfry} many {# cyfr} other {# cyfry}}`;
const BYTES = (slot: string) => `{${slot}, plural, one {# bajt} few {# bajty} many {# bajtów} other {# bajta}}`;

/** Polish. */
export const pl: Language = {
  locale: 'pl',
  isOurs: true,
  messages: {
    needed: '{field}: proszę wypełnić to pole.',
    blank: '{field}: to pole nie może być puste.',
    readable: '{field}: proszę podać tylko raz.',
    stranger: 'Nie ma tu pola „{key}”.',
    known:
      '{fields_count, plural, one {{fields}: proszę podać istniejącą wartość.} few {{fields}: proszę podać wartości z istniejącego wpisu.} many {{fields}: proszę podać wartości z istniejącego wpisu.} other {{fields}: proszę podać wartości z istniejącego wpisu.}}',
    tag: '{field}: możliwe wartości to {options}.',
    'too-many': `{field}: proszę podać najwyżej ${ENTRIES('most')}.`,
    'too-many/work': '{field}: razem jest tu zbyt wiele pozycji, by je sprawdzić.',
    'readable/submission': 'Proszę wysłać obiekt z nazwanymi polami.',
    'readable/exact/long': '{field}: proszę podać najwyżej 400 cyfr przed przecinkiem i po nim.',
    'readable/text': '{field}: proszę podać tekst bez nieczytelnych znaków.',
    'readable/whole': '{field}: proszę podać liczbę całkowitą, na przykład 12.',
    'readable/whole/text': '{field}: proszę wysłać liczbę całkowitą jako liczbę, a nie tekst.',
    'readable/decimal': '{field}: proszę podać liczbę, na przykład 12.5.',
    'readable/decimal/text': '{field}: proszę wysłać liczbę jako liczbę, a nie tekst.',
    'readable/exact': '{field}: proszę podać liczbę, na przykład 12.50.',
    'readable/flag': '{field}: proszę podać tak lub nie (true lub false).',
    'readable/flag/text': '{field}: proszę wysłać true albo false, a nie tekst.',
    'readable/choice': '{field}: możliwe wartości to {options}.',
    'readable/day': '{field}: proszę podać istniejący dzień jako rok-miesiąc-dzień, na przykład 2031-05-28.',
    'readable/day/date': '{field}: proszę podać dzień jako tekst, na przykład 2031-05-28, a nie obiekt Date.',
    'readable/moment': '{field}: proszę podać datę i godzinę z przesunięciem, na przykład 2031-05-28T09:30:00+02:00.',
    'readable/moment/date': '{field}: proszę podać datę i godzinę jako tekst, na przykład 2031-05-28T09:30:00+02:00, a nie obiekt Date.',
    'readable/time-of-day': '{field}: proszę podać godzinę, na przykład 09:30.',
    'readable/list': '{field}: proszę podać listę.',
    'readable/group': '{field}: proszę podać obiekt z nazwanymi polami.',
    'readable/table': '{field}: proszę podać obiekt z nazwanymi pozycjami.',
    'readable/one-of-shapes': '{field}: proszę podać obiekt z nazwanymi polami.',
    'readable/inline-upload': '{field}: proszę podać plik jako obiekt z polami name, mediaType i base64.',
    'readable/json-value': '{field}: proszę podać wartość JSON.',
    'readable/upload': '{field}: proszę podać plik.',
    length: `{of, select, list {{limits, select,
      most {{field}: proszę podać najwyżej ${ENTRIES('max')}.}
      least {{field}: proszę podać co najmniej ${ENTRIES('min')}.}
      exactly {{field}: proszę podać dokładnie ${ENTRIES('max')}.}
      other {{field}: proszę podać od {min, number} do {max, plural, one {# pozycji} few {# pozycji} many {# pozycji} other {# pozycji}}.}
    }} other {{limits, select,
      most {{field}: proszę podać najwyżej ${CHARACTERS('max')}.}
      least {{field}: proszę podać co najmniej ${CHARACTERS('min')}.}
      exactly {{field}: proszę podać dokładnie ${CHARACTERS('max')}.}
      other {{field}: proszę podać od {min, number} do {max, plural, one {# znaku} few {# znaków} many {# znaków} other {# znaku}}.}
    }}}`,
    pattern: '{field}: wymagany zapis to {description}.',
    email: '{field}: proszę podać adres e-mail, na przykład name@example.org.',
    between: '{field}: proszę podać wartość od {min, number} do {max, number}.',
    'at-least': '{field}: proszę podać co najmniej {min, number}.',
    'at-most': '{field}: proszę podać najwyżej {max, number}.',
    above: '{field}: proszę podać więcej niż {limit, number}.',
    below: '{field}: proszę podać mniej niż {limit, number}.',
    places: `{places, plural,
      =0 {{field}: proszę podać bez miejsc po przecinku.}
      one {{field}: możliwe jest najwyżej # miejsce po przecinku.}
      few {{field}: możliwe są najwyżej # miejsca po przecinku.}
      many {{field}: możliwe jest najwyżej # miejsc po przecinku.}
      other {{field}: możliwe jest najwyżej # miejsca po przecinku.}
    }`,
    precision: `{field}: proszę podać najwyżej ${DIGITS('whole')} przed przecinkiem i ${DIGITS('places')} po przecinku.`,
    'multiple-of': '{field}: proszę podać wielokrotność {step, number}.',
    'is-true': '{field}: proszę potwierdzić.',
    'is-false': '{field}: proszę nie zaznaczać.',
    'not-before': `{field}: nie wcześniej niż ${BOUND}.`,
    'not-after': `{field}: nie później niż ${BOUND}.`,
    before: `{field}: tylko wcześniej niż ${BOUND}.`,
    after: `{field}: tylko później niż ${BOUND}.`,
    'years-old': '{field}: musi upłynąć co najmniej {years, plural, one {# rok} few {# lata} many {# lat} other {# roku}}.',
    'on-weekdays': '{field}: możliwe dni to {names}.',
    distinct: '{field}: proszę nie powtarzać pozycji; pozycja {entry} jest taka sama jak pozycja {sameAs}.',
    'must-contain': '{field}: proszę podać także {entry}.',
    'upload-size': `{fault, select, small {{field}: plik musi mieć co najmniej ${BYTES('min')}.} other {{field}: plik może mieć najwyżej ${BYTES('max')}.}}`,
    'json-types': '{field}: proszę podać JSON typu {types}.',
    'media-types': '{field}: proszę podać plik typu {types}.',
    letters: '{of, select, ascii {{field}: proszę podać tylko litery od A do Z.} other {{field}: proszę podać tylko litery.}}',
    'letters-and-digits':
      '{of, select, ascii {{field}: proszę podać tylko litery od A do Z i cyfry.} other {{field}: proszę podać tylko litery i cyfry.}}',
    digits: '{of, select, ascii {{field}: proszę podać tylko cyfry od 0 do 9.} other {{field}: proszę podać tylko cyfry.}}',
    'upper-case': '{field}: proszę pisać wielkimi literami.',
    'lower-case': '{field}: proszę pisać małymi literami.',
    'character-mix': '{field}: proszę połączyć co najmniej {least, number} z tych: {list}.',
    contains: '{field}: musi zawierać „{part}”.',
    without: '{field}: nie może zawierać „{part}”.',
    'starts-with': '{field}: musi zaczynać się od „{part}”.',
    'ends-with': '{field}: musi kończyć się na „{part}”.',
    allowed: '{field}: możliwe wartości to {values}.',
    forbidden: '{field}: niemożliwe wartości to {values}.',
    'web-address': '{field}: proszę podać adres internetowy zaczynający się od {schemes}, na przykład https://example.org/pier.',
    'host-name': '{field}: proszę podać nazwę hosta, na przykład quay.example.org.',
    'ip-address':
      '{version, select, 4 {{field}: proszę podać adres IPv4, na przykład 192.0.2.7.} 6 {{field}: proszę podać adres IPv6, na przykład 2001:db8::7.} other {{field}: proszę podać adres IP, na przykład 192.0.2.7.}}',
    phone: '{field}: proszę podać numer telefonu z kodem kraju, na przykład +4712345678.',
    uuid: '{field}: proszę podać UUID, na przykład 01890a5d-ac96-774b-bcce-b302099a8057.',
    'card-number': '{field}: proszę podać numer karty, tylko cyfry, i sprawdzić, czy nie ma w nim pomyłki.',
    iban: '{field}: proszę podać IBAN wielkimi literami i bez odstępów oraz sprawdzić, czy nie ma w nim pomyłki.',
    'language-tag': '{field}: proszę podać oznaczenie języka, na przykład nb-NO.',
    'time-zone': '{field}: proszę podać strefę czasową, na przykład Europe/Oslo.',
    'currency-code': '{field}: proszę podać kod waluty, na przykład NOK.',
    'country-code': '{field}: proszę podać kod kraju, na przykład NO.',
    base64: '{field}: proszę podać tekst w base64.',
    'json-text': '{field}: proszę podać tekst JSON.',
    same: '{second}: proszę podać to samo, co w polu {first}.',
    different: '{second}: proszę podać coś innego niż w polu {first}.',
    'in-order':
      '{kind, select, number {{later}: musi być więcej niż {earlier}.} numberOrEqual {{later}: nie może być mniej niż {earlier}.} timeOrEqual {{later}: nie może być wcześniej niż {earlier}.} other {{later}: musi być później niż {earlier}.}}',
    'days-apart': `{limits, select,
      most {{to}: najwyżej ${DAYS('most')} po: {from}.}
      least {{to}: co najmniej ${DAYS('least')} po: {from}.}
      exactly {{to}: dokładnie ${DAYS('most')} po: {from}.}
      other {{to}: od {least, number} do {most, plural, one {# dnia} few {# dni} many {# dni} other {# dnia}} po: {from}.}
    }`,
    together: 'Proszę podać razem albo wszystkie pominąć: {fields}.',
    'exactly-one-of': 'Proszę wypełnić dokładnie jedno z pól: {fields}.',
    'total-at-most': '{fields}: razem {total, number}, możliwe jest najwyżej {limit, number}.',
    among: '{value}: proszę podać wartość, która jest w polu {those}.',
    absent: '{field}: proszę pominąć to pole.',
    'at-least-one-of': 'Proszę wypełnić co najmniej jedno z pól: {fields}.',
    unique: `{takenBy, select,
      row {{fields_count, plural, one {{fields}: ta wartość jest już w wierszu {row}.} few {{fields}: te wartości są już razem w wierszu {row}.} many {{fields}: te wartości są już razem w wierszu {row}.} other {{fields}: te wartości są już razem w wierszu {row}.}}}
      refusedRow {{fields_count, plural, one {{fields}: ta wartość jest też w wierszu {row}, którego nie przyjęto.} few {{fields}: te wartości są też razem w wierszu {row}, którego nie przyjęto.} many {{fields}: te wartości są też razem w wierszu {row}, którego nie przyjęto.} other {{fields}: te wartości są też razem w wierszu {row}, którego nie przyjęto.}}}
      entry {{fields_count, plural, one {{fields}: ta wartość jest już w pozycji {entry}.} few {{fields}: te wartości są już razem w pozycji {entry}.} many {{fields}: te wartości są już razem w pozycji {entry}.} other {{fields}: te wartości są już razem w pozycji {entry}.}}}
      other {{fields_count, plural, one {{fields}: ta wartość jest już zajęta.} few {{fields}: te wartości są już razem zajęte.} many {{fields}: te wartości są już razem zajęte.} other {{fields}: te wartości są już razem zajęte.}}}
    }`,
    'stored-choice':
      '{listed, select, true {{fields}: proszę podać {options}.} other {{fields}: proszę podać jedną z dostępnych wartości.}}',
    unexpired: `{kind, select,
      day {{fields}: termin ważności minął, ostatni dzień: {until, date, long}.}
      moment {{fields}: termin ważności minął {until, date, long}, {until, time, short} UTC.}
      other {{fields}: termin ważności minął.}
    }`,
    'unchanged-since': 'Ktoś inny zmienił to w międzyczasie; proszę przejrzeć to jeszcze raz.',
    'no-overlap': `{takenBy, select,
      row {{fields}: pokrywa się z wierszem {row}.}
      refusedRow {{fields}: pokrywa się też z wierszem {row}, którego nie przyjęto.}
      entry {{fields}: pokrywa się z pozycją {entry}.}
      other {{fields}: pokrywa się z czymś, co już jest.}
    }`,
    'on-weekdays/monday': 'poniedziałek',
    'on-weekdays/tuesday': 'wtorek',
    'on-weekdays/wednesday': 'środę',
    'on-weekdays/thursday': 'czwartek',
    'on-weekdays/friday': 'piątek',
    'on-weekdays/saturday': 'sobotę',
    'on-weekdays/sunday': 'niedzielę',
    'character-mix/upper': 'wielkie litery',
    'character-mix/lower': 'małe litery',
    'character-mix/digit': 'cyfry',
    'character-mix/other': 'inne znaki',
    'problem/unreadable': 'Nie można odczytać żądania.',
    'problem/wrong-method': 'Pod tym adresem nie można tego zrobić.',
    'problem/other-origin': 'To zostało wysłane z innej witryny.',
    'problem/unknown-caller': 'Proszę się najpierw zalogować.',
    'problem/not-allowed': 'Brak uprawnień do tej czynności.',
    'problem/nothing-there': 'Pod tym adresem nic nie ma.',
    'problem/rejected': 'Części danych nie można przyjąć w tej postaci.',
    'problem/lost-race': 'Ktoś inny był szybszy.',
    'problem/undecided': 'Nie udało się tego teraz sprawdzić. Proszę wysłać ponownie za chwilę.',
    'problem/unfit-answer': 'Nie udało się udzielić odpowiedzi.',
    'page/signed-out': 'Proszę zalogować się ponownie i wysłać jeszcze raz.',
    'page/too-large': 'To jest za duże, aby je wysłać; może wystarczy mniejszy plik.',
    'page/too-often': 'To było zbyt często. Proszę chwilę poczekać.',
    'page/broken': 'Coś poszło nie tak. Nic nie zginęło; proszę wysłać ponownie za chwilę.',
    'page/refused': 'To nie zostało przyjęte.',
    'page/unreachable': 'Nie można połączyć się z serwerem. Nic nie zginęło; proszę wysłać ponownie za chwilę.',
    'page/sent': 'To zostało już wysłane. Aby wysłać to jeszcze raz, proszę najpierw coś zmienić.',
    'page/slow': 'Serwer jeszcze nie odpowiedział. Nic nie zginęło; proszę jeszcze chwilę poczekać.',
    'file-content': '{field}: zawartość musi odpowiadać plikowi typu {types}.',
  },
};

/** The words of descriptions. */
export const plWords: Words = {
  language: 'pl',
  fields: 'Pola',
  field: 'Pole',
  kind: 'Rodzaj',
  presence: 'Obecność',
  rules: 'Reguły',
  rule: 'Reguła',
  given: 'Podawane przez aplikację',
  betweenFields: 'Reguły między polami',
  stored: 'Reguły o danych zapisanych',
  outside: 'Zapytania na zewnątrz',
  example: 'Przykład',
  accepted: 'Przyjęte',
  refused: 'Odrzucone',
  noExample: 'nie znaleziono przykładu',
  collections: 'Co jest sprawdzane w danych',
  collection: 'Zbiór',
  key: 'Klucz',
  columns: 'Kolumny',
  needs: 'Ograniczenie',
  uniqueOver: 'niepowtarzalne',
  graph: 'Co z czego czyta',
  needed: 'wymagane',
  optional: 'można pominąć',
  otherwise: 'w przeciwnym razie',
  computed: 'w przeciwnym razie obliczane',
  emptyList: 'w przeciwnym razie żadne',
  secret: 'tajne',
  leftOut: 'nie jest zachowywane',
  nullAllowed: 'lub null',
  options: 'jedno z',
  cleaned: 'oczyszczane',
  warning: 'tylko ostrzeżenie',
  trial: 'na próbę, bez skutku',
  on: 'przy',
  when: 'gdy',
  not: 'nie',
  and: 'i',
  or: 'lub',
  is: 'to',
  isThere: 'jest podane',
  from: 'od',
  until: 'do',
  strangersRefused: 'Pola, których tu nie ma, są odrzucane.',
  zone: 'Strefa czasowa',
  occasions: 'Okazje',
  storedIn: 'Zapisywane w',
  withStored: 'zapisane',
  nothing: 'nic',
  several: 'każdy',
  withheld: 'zatajone',
  noRow: 'brak wiersza',
  oneRow: 'taki wiersz',
  characters: (count) => `liczba znaków: ${count}`,
  relative({ relative, by }) {
    if (relative === 'yearsBeforeToday') return `dzień ${by} lat przed dzisiejszym`;
    if (relative === 'now') return by === 0 ? 'teraz' : `${Math.abs(by)} min ${by < 0 ? 'temu' : 'od teraz'}`;
    return by === 0 ? 'dziś' : `${Math.abs(by)} dni ${by < 0 ? 'przed dzisiejszym dniem' : 'od dziś'}`;
  },
  kinds: {
    text: 'tekst',
    whole: 'liczba całkowita',
    decimal: 'liczba',
    exact: 'liczba dokładna',
    flag: 'tak lub nie',
    choice: 'wybór',
    day: 'dzień',
    moment: 'data i godzina',
    'time-of-day': 'godzina',
    group: 'grupa',
    list: 'lista',
    table: 'tabela',
    'one-of-shapes': 'jedna z kilku postaci',
    upload: 'plik',
    'json-value': 'JSON',
    'inline-upload': 'plik w JSON',
  },
};
