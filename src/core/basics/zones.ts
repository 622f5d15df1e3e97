// The names of time zones, since the run time keeps some room for good for everything that it is asked for as a zone: it is asked for nothing
// but what is one, in one spelling.

/** Names of the IANA database that `Intl.supportedValuesOf` need not list: links to others, and those of older lists (version 2025b). By area. */
const LINKS: { readonly [area: string]: string } = {
  Africa: 'Asmara Timbuktu',
  America:
    'Argentina/Buenos_Aires Argentina/Catamarca Argentina/ComodRivadavia Argentina/Cordoba Argentina/Jujuy Argentina/Mendoza Atikokan Atka Ensenada Fort_Wayne Indiana/Indianapolis Kentucky/Louisville Knox_IN Montreal Nipigon Nuuk Pangnirtung Porto_Acre Rainy_River Rosario Santa_Isabel Shiprock Thunder_Bay Virgin Yellowknife',
  Antarctica: 'South_Pole',
  Asia: 'Ashkhabad Choibalsan Chongqing Chungking Dacca Harbin Ho_Chi_Minh Istanbul Kashgar Kathmandu Kolkata Macao Tel_Aviv Thimbu Ujung_Pandang Ulan_Bator Yangon',
  Atlantic: 'Faroe Jan_Mayen',
  Australia: 'ACT Canberra Currie LHI NSW North Queensland South Tasmania Victoria West Yancowinna',
  Brazil: 'Acre DeNoronha East West',
  '': 'CET CST6CDT Cuba EET EST EST5EDT Egypt Eire GB GB-Eire GMT GMT+0 GMT-0 GMT0 Greenwich HST Hongkong Iceland Iran Israel Jamaica Japan Kwajalein Libya MET MST MST7MDT NZ NZ-CHAT Navajo PRC PST8PDT Poland Portugal ROC ROK Singapore Turkey UCT UTC Universal W-SU WET Zulu',
  Canada: 'Atlantic Central Eastern Mountain Newfoundland Pacific Saskatchewan Yukon',
  Chile: 'Continental EasterIsland',
  Etc: 'GMT GMT+0 GMT+1 GMT+10 GMT+11 GMT+12 GMT+2 GMT+3 GMT+4 GMT+5 GMT+6 GMT+7 GMT+8 GMT+9 GMT-0 GMT-1 GMT-10 GMT-11 GMT-12 GMT-13 GMT-14 GMT-2 GMT-3 GMT-4 GMT-5 GMT-6 GMT-7 GMT-8 GMT-9 GMT0 Greenwich UCT UTC Universal Zulu',
  Europe: 'Belfast Kyiv Nicosia Tiraspol Uzhgorod Zaporozhye',
  Mexico: 'BajaNorte BajaSur General',
  Pacific: 'Chuuk Johnston Kanton Pohnpei Samoa Yap',
  US: 'Alaska Aleutian Arizona Central East-Indiana Eastern Hawaii Indiana-Starke Michigan Mountain Pacific Samoa',
};

let names: ReadonlyMap<string, string> | undefined;

/** The name of a time zone as it is spelled; upper and lower case are the same (ECMA-402, 6.5.1). `undefined` for what is none. */
export function zoneNamed(name: string): string | undefined {
  names ??= allNames();
  return names.get(name.toLowerCase());
}

function allNames(): Map<string, string> {
  const links = Object.entries(LINKS).flatMap(([area, list]) => list.split(' ').map((name) => (area === '' ? name : `${area}/${name}`)));
  // Older browsers have no list of their own.
  const listed = 'supportedValuesOf' in Intl ? Intl.supportedValuesOf('timeZone') : undefined;
  return new Map([...links, ...(listed ?? [])].map((name) => [name.toLowerCase(), name]));
}
