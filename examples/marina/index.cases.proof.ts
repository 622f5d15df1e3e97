// Made by `jestril serve` of cases in index.cases.json, and made again whenever one of them changes: edit that file, not this one.
import { readFileSync } from 'node:fs';
import { isIntake } from 'jestril';
import { memoryRecords } from 'jestril/memory';
import { ruleOf, type Subject } from 'jestril/proof';
import * as module from './index.ts';

const recordsIn = (file: string) => memoryRecords(JSON.parse(readFileSync(new URL(file, import.meta.url), 'utf8')));
const named = (name: string) => {
  const found = Object.values(module).find((each) => isIntake(each) && each.name === name);
  if (!isIntake(found)) throw new Error('The module has no intake named ' + name);
  return found;
};
const intake1 = named('berth-booking');

export const proofs: readonly Subject[] = [
  // four nights in May
  {
    intake: intake1,
    options: { now: new Date('2031-04-20T08:00:00.000Z'), given: { caller: { id: 1, staff: false } }, records: recordsIn('data/records.json') },
    accepts: [{ mark: 'PW-2040', lengthOverall: 11.2, beam: 3.6, berth: 'A1', arrives: '2031-05-14', departs: '2031-05-18', crew: [{ name: 'Ida Sund', born: '1988-02-29' }], gateCode: '4071', gateCodeAgain: '4071', terms: true }],
    rejects: [],
  },
  // insurance ends two days before, and no plug for an electric vessel
  {
    intake: intake1,
    options: { now: new Date('2031-04-20T08:00:00.000Z'), given: { caller: { id: 1, staff: false } }, records: recordsIn('data/records.json') },
    accepts: [],
    rejects: [{ submission: { mark: 'PW-3177', lengthOverall: 7.9, beam: 2.7, berth: 'C4', arrives: '2031-06-08', departs: '2031-06-12', crew: [{ name: 'Bram Oke', born: '1979-11-03' }], gateCode: '1234', gateCodeAgain: '1234', terms: true }, by: ['marina/insured-until@departs', 'needed@power'] }],
  },
  // four weeks are enough
  {
    intake: intake1,
    options: { now: new Date('2031-04-20T08:00:00.000Z'), given: { caller: { id: 1, staff: false } }, records: recordsIn('data/records.json') },
    accepts: [],
    rejects: [{ submission: { mark: 'PW-2040', lengthOverall: 11.2, beam: 3.6, berth: 'A1', arrives: '2031-05-14', departs: '2031-06-14', crew: [{ name: 'Ida Sund', born: '1988-02-29' }], gateCode: '4071', gateCodeAgain: '4071', terms: true }, by: ['stay-length'] }],
  },
  // longer than berth C4 takes
  { rule: ruleOf(intake1, 'marina/fits-berth'), samples: { fails: [{ berth: 'C4', length: 8.01, found: { maxLength: 8 } }] } },
];
