/** The ids of the ready-made rules, which a catalogue has sentences for; a test holds them against the catalogues. */
export const RULE_IDS: readonly string[] =
  'length pattern email between at-least at-most above below places precision multiple-of is-true is-false not-before not-after before after years-old on-weekdays distinct must-contain upload-size json-types media-types letters letters-and-digits digits upper-case lower-case character-mix contains without starts-with ends-with allowed forbidden web-address host-name ip-address phone uuid card-number iban language-tag time-zone currency-code country-code base64 json-text same different in-order days-apart together exactly-one-of total-at-most among absent at-least-one-of unique stored-choice unexpired unchanged-since no-overlap'.split(
    ' ',
  );

/** What the engine and the kinds say besides, by the entries of catalogues. */
export const ENGINE_ENTRIES: readonly string[] =
  'too-many/work readable/submission readable/exact/long readable/text readable/whole readable/whole/text readable/decimal readable/decimal/text readable/exact readable/flag readable/flag/text readable/choice readable/day readable/day/date readable/moment readable/moment/date readable/time-of-day readable/list readable/group readable/table readable/one-of-shapes readable/inline-upload readable/json-value readable/upload'.split(
    ' ',
  );
