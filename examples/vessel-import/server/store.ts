import Sqlite from 'libsql';

/** The harbour's vessels; the file is made where it is missing. */
export function openVessels(file: string): void {
  const database = new Sqlite(file);
  database.exec(`pragma journal_mode = wal;
    create table if not exists vessels (id integer primary key, mark text not null unique, name text not null, lengthOverall real not null,
      beam real not null, electric boolean not null, insuredUntil date not null)`);
  database.close();
}
