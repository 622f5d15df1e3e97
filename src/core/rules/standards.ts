// Lists and structures that standards publish, as of the day given. They do not come from the run time, so that a submission is
// judged alike wherever it is judged.

/** ISO 3166-1 alpha-2, officially assigned codes, as of 2026-01-01. */
export const COUNTRIES: ReadonlySet<string> = new Set(
  `AD AE AF AG AI AL AM AO AQ AR AS AT AU AW AX AZ BA BB BD BE BF BG BH BI BJ BL BM BN BO BQ BR BS BT BV BW BY BZ CA CC CD CF CG CH
  CI CK CL CM CN CO CR CU CV CW CX CY CZ DE DJ DK DM DO DZ EC EE EG EH ER ES ET FI FJ FK FM FO FR GA GB GD GE GF GG GH GI GL GM GN GP
  GQ GR GS GT GU GW GY HK HM HN HR HT HU ID IE IL IM IN IO IQ IR IS IT JE JM JO JP KE KG KH KI KM KN KP KR KW KY KZ LA LB LC LI LK LR
  LS LT LU LV LY MA MC MD ME MF MG MH MK ML MM MN MO MP MQ MR MS MT MU MV MW MX MY MZ NA NC NE NF NG NI NL NO NP NR NU NZ OM PA PE PF
  PG PH PK PL PM PN PR PS PT PW PY QA RE RO RS RU RW SA SB SC SD SE SG SH SI SJ SK SL SM SN SO SR SS ST SV SX SY SZ TC TD TF TG TH TJ
  TK TL TM TN TO TR TT TV TW TZ UA UG UM US UY UZ VA VC VE VG VI VN VU WF WS YE YT ZA ZM ZW`.split(/\s+/),
);

/** ISO 4217, list one: currencies and funds in use, as of 2026-01-01. */
export const CURRENCIES: ReadonlySet<string> = new Set(
  `AED AFN ALL AMD AOA ARS AUD AWG AZN BAM BBD BDT BHD BIF BMD BND BOB BOV BRL BSD BTN BWP BYN BZD CAD CDF CHE CHF CHW CLF CLP CNY
  COP COU CRC CUP CVE CZK DJF DKK DOP DZD EGP ERN ETB EUR FJD FKP GBP GEL GHS GIP GMD GNF GTQ GYD HKD HNL HTG HUF IDR ILS INR IQD IRR
  ISK JMD JOD JPY KES KGS KHR KMF KPW KRW KWD KYD KZT LAK LBP LKR LRD LSL LYD MAD MDL MGA MKD MMK MNT MOP MRU MUR MVR MWK MXN MXV MYR
  MZN NAD NGN NIO NOK NPR NZD OMR PAB PEN PGK PHP PKR PLN PYG QAR RON RSD RUB RWF SAR SBD SCR SDG SEK SGD SHP SLE SOS SRD SSP STN SVC
  SYP SZL THB TJS TMT TND TOP TRY TTD TWD TZS UAH UGX USD USN UYI UYU UYW UZS VED VES VND VUV WST XAD XAF XAG XAU XBA XBB XBC XBD XCD
  XCG XDR XOF XPD XPF XPT XSU XTS XUA XXX YER ZAR ZMW ZWG`.split(/\s+/),
);

/**
 * What follows the country and the check digits of an IBAN, from the registry of ISO 13616 as of 2025-12: so many digits (n),
 * capital letters (a), or letters and digits (c).
 */
export const IBAN_STRUCTURES: { readonly [country: string]: string } = {
  AD: '8n12c',
  AE: '19n',
  AL: '8n16c',
  AT: '16n',
  AZ: '4a20c',
  BA: '16n',
  BE: '12n',
  BG: '4a6n8c',
  BH: '4a14c',
  BI: '23n',
  BR: '23n1a1c',
  BY: '4c4n16c',
  CH: '5n12c',
  CR: '18n',
  CY: '8n16c',
  CZ: '20n',
  DE: '18n',
  DJ: '23n',
  DK: '14n',
  DO: '4c20n',
  EE: '16n',
  EG: '25n',
  ES: '20n',
  FI: '14n',
  FK: '2a12n',
  FO: '14n',
  FR: '10n11c2n',
  GB: '4a14n',
  GE: '2a16n',
  GI: '4a15c',
  GL: '14n',
  GR: '7n16c',
  GT: '24c',
  HN: '4a20n',
  HR: '17n',
  HU: '24n',
  IE: '4a14n',
  IL: '19n',
  IQ: '4a15n',
  IS: '22n',
  IT: '1a10n12c',
  JO: '4a4n18c',
  KW: '4a22c',
  KZ: '3n13c',
  LB: '4n20c',
  LC: '4a24c',
  LI: '5n12c',
  LT: '16n',
  LU: '3n13c',
  LV: '4a13c',
  LY: '21n',
  MC: '10n11c2n',
  MD: '20c',
  ME: '18n',
  MK: '3n10c2n',
  MN: '16n',
  MR: '23n',
  MT: '4a5n18c',
  MU: '4a19n3a',
  NI: '4a20n',
  NL: '4a10n',
  NO: '11n',
  OM: '3n16c',
  PK: '4a16c',
  PL: '24n',
  PS: '4a21c',
  PT: '21n',
  QA: '4a21c',
  RO: '4a16c',
  RS: '18n',
  RU: '14n15c',
  SA: '2n18c',
  SC: '4a20n3a',
  SD: '14n',
  SE: '20n',
  SI: '15n',
  SK: '20n',
  SM: '1a10n12c',
  SO: '19n',
  ST: '21n',
  SV: '4a20n',
  TL: '19n',
  TN: '20n',
  TR: '6n16c',
  UA: '6n19c',
  VA: '18n',
  VG: '4a16n',
  XK: '16n',
  YE: '4a4n18c',
};

/** Tags registered before RFC 4646 which its grammar does not cover (RFC 5646, 2.1: `irregular` and `regular`), in lower case. */
export const GRANDFATHERED_TAGS: ReadonlySet<string> = new Set(
  `en-gb-oed i-ami i-bnn i-default i-enochian i-hak i-klingon i-lux i-mingo i-navajo i-pwn i-tao i-tay i-tsu sgn-be-fr sgn-be-nl sgn-ch-de
  art-lojban cel-gaulish no-bok no-nyn zh-guoyu zh-hakka zh-min zh-min-nan zh-xiang`.split(/\s+/),
);
