import { describeProof } from 'jestril/jest';
import { sqliteRecords } from 'jestril/sql';
import { Kysely, SqliteDialect } from 'kysely';
import Database from 'libsql';
import { slotFits, slotFree } from '../../examples/harbour-rules/index.ts';
import { clubTables, rackRequest } from '../../examples/kayak-club/index.ts';
import { blamesOf, messagesOf } from '../support/judging.ts';

for (const rule of [slotFits, slotFree]) describeProof({ rule });

describe('rules of one team, with the fields and tables of another', () => {
  const database = new Database(':memory:');
  database.exec(`create table racks (name text primary key, metres real); insert into racks values ('K1', 5), ('K2', 4);
    create table rack_use (rack text, since text, until text); insert into rack_use values ('K2', '2031-05-01', '2031-06-01')`);
  // biome-ignore lint/suspicious/noExplicitAny: tables of a test
  const db = new Kysely<any>({ dialect: new SqliteDialect({ database: database as never }) });
  const records = sqliteRecords(db, clubTables);
  afterAll(() => db.destroy());

  const kayak = { rack: 'K1', metres: 4.8, since: '2031-05-01', until: '2031-05-02' };
  const request = (...kayaks: object[]) => ({ member: 'Ida', kayaks });

  test('each entry is judged, and blamed', async () => {
    expect((await rackRequest.judge(request(kayak), { records })).outcome).toBe('accepted');
    const verdict = await rackRequest.judge(request(kayak, { ...kayak, rack: 'K2' }, { ...kayak, rack: 'K9' }, kayak), { records });
    expect(blamesOf(verdict)).toEqual([
      'known /kayaks/2/rack',
      'harbour/slot-fits /kayaks/1/rack /kayaks/1/metres',
      'harbour/slot-free /kayaks/1/rack /kayaks/1/since /kayaks/1/until',
      'kayak-club/racks-differ /kayaks/3/rack',
    ]);
  });

  test('the labels are the club’s, in both languages', async () => {
    expect(messagesOf(await rackRequest.judge(request({ ...kayak, metres: 6 }), { records }))).toEqual(['Rack takes up to 5 m.']);
    expect(messagesOf(await rackRequest.judge(request({ ...kayak, metres: 6 }), { records, locale: 'de' }))).toEqual([
      'Gestell: Hier passen bis zu 5 m.',
    ]);
  });
});
