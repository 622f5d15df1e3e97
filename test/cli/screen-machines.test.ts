import { type ChildProcess, execFileSync, spawn } from 'node:child_process';
import { once } from 'node:events';
import { existsSync, readFileSync } from 'node:fs';
import { createServer } from 'node:net';
import { join } from 'node:path';
import { commandIn, linesOf } from '../support/command.ts';
import { Random } from '../support/random.ts';
import { begun, MODULE } from '../support/screening.ts';

// A screening on several machines: here processes, and a Redis of their own.

const isRequired = (process.env.JESTRIL_REQUIRE ?? '').split(',').includes('servers');
const REDIS = '/usr/bin/redis-server';
const describeMachines = existsSync(REDIS) || isRequired ? describe : describe.skip;

const isFree = (port: number) =>
  new Promise<boolean>((resolve) => {
    const probe = createServer()
      .once('error', () => resolve(false))
      .listen(port, '127.0.0.1', () => probe.close(() => resolve(true)));
  });

describeMachines('several machines (needs redis-server)', () => {
  const { folder, file, jestril } = commandIn();
  const library = (name: string) => `'${join(process.cwd(), 'dist', name)}'`;
  const module = file(
    'quay.mjs',
    MODULE.replace("'jestril'", library('index.js')).replace("'jestril/memory'", library('records/memory.js')),
  );
  const records = ['--records', module];
  let port: number;
  let redis: ChildProcess;
  const startRedis = async () => {
    redis = spawn(REDIS, ['--port', String(port), '--save', '', '--appendonly', 'no', '--bind', '127.0.0.1'], { stdio: 'ignore' });
    for (let tries = 0; tries < 50; tries++) {
      try {
        execFileSync('redis-cli', ['-p', String(port), 'ping'], { stdio: 'ignore' });
        return;
      } catch {
        await new Promise((resolve) => setTimeout(resolve, 200));
      }
    }
    throw new Error(`Redis does not start at port ${port}.`);
  };
  beforeAll(async () => {
    // Below the ports that connections are given: while the server is away, none of them can take its place.
    for (port = 21_000 + (process.pid % 8000); !(await isFree(port)); port++);
    await startRedis();
  });
  afterAll(() => void redis?.kill('SIGKILL'));

  const rows = (count: number, seed: number) => {
    const random = new Random(seed);
    return Array.from({ length: count }, (_, at) => {
      const day = 1 + random.below(20);
      const dayOf = (number: number) => `2031-0${1 + (at % 9)}-${String(number).padStart(2, '0')}`;
      return random.below(50) === 0
        ? '{'
        : JSON.stringify({
            mark: `M${random.below(count)}`,
            berth: `B${random.below(90)}`,
            arrives: dayOf(day),
            departs: dayOf(day + random.below(4)),
            name: 'Ida',
          });
    });
  };
  const checked = (path: string) =>
    linesOf(jestril(['check', module, path, ...records, '--now', '2031-01-01T00:00:00Z', '--format', 'json']).stdout)
      .slice(0, -1)
      .map(({ line, outcome, findings = [] }) => [
        line,
        outcome,
        findings.map(({ use, message }: { use: string; message: string }) => `${use} ${message}`),
      ]);
  const screened = (to: string) =>
    linesOf(readFileSync(join(to, 'verdicts.ndjson'), 'utf8')).map(({ line, outcome, findings = [] }) => [
      line,
      outcome,
      findings.map(({ use, message }: { use: string; message: string }) => `${use} ${message}`),
    ]);
  const url = () => `redis://127.0.0.1:${port}`;
  const start = (path: string, to: string) =>
    begun(
      [
        'screen',
        'start',
        module,
        path,
        ...records,
        '--now',
        '2031-01-01T00:00:00Z',
        '--to',
        to,
        '--range-bytes',
        '6000',
        '--redis',
        url(),
        '--resume',
      ],
      process.cwd(),
    );
  const joining = (to: string) => begun(['screen', 'join', module, '--to', to, '--redis', url(), ...records], process.cwd());

  test('workers that are killed, a coordinator that is killed, a Redis that loses everything, two jobs at once: every row has its one verdict', async () => {
    const random = new Random(3);
    const jobs = [1, 2].map((seed) => ({
      path: file(`many-${seed}.ndjson`, `${rows(6000, seed).join('\n')}\n`),
      to: join(folder, `many-${seed}`),
    }));
    const coordinators = jobs.map(({ path, to }) => start(path, to));
    const isBegun = () => jobs.every(({ to }) => existsSync(join(to, 'job.json')));
    while (!isBegun()) await new Promise((resolve) => setTimeout(resolve, 100));
    const crew = jobs.flatMap(({ to }) => [to, to]).map((to) => ({ to, worker: joining(to) }));
    let [killed, isRedisDown, isCoordinatorDown] = [0, false, false];
    const isDone = () => jobs.every(({ to }) => existsSync(join(to, 'summary.json')));
    for (let turn = 0; turn < 40 && !isDone(); turn++) {
      await new Promise((resolve) => setTimeout(resolve, 700));
      if (killed < 10) {
        const one = random.pick(crew);
        one.worker.kill('SIGKILL');
        killed += 1;
        one.worker = joining(one.to);
      }
      if (turn === 2 && !isRedisDown) {
        isRedisDown = true;
        redis.kill('SIGKILL');
        await once(redis, 'exit');
        await new Promise((resolve) => setTimeout(resolve, 1500));
        await startRedis();
      }
      if (turn === 4 && !isCoordinatorDown) {
        isCoordinatorDown = true;
        coordinators[0]?.kill('SIGKILL');
        coordinators[0] = start(jobs[0]?.path as string, jobs[0]?.to as string);
      }
    }
    const ended = await Promise.all(coordinators.map((each) => each.ended));
    expect(ended.map(({ code, told }) => [code, told.includes('unreadable')])).toEqual([
      [3, true],
      [3, true],
    ]);
    for (const { worker } of crew) expect((await worker.ended).code).toBe(0);
    for (const { path, to } of jobs) expect(screened(to)).toEqual(checked(path));
    expect([killed > 2, isRedisDown]).toEqual([true, true]);
    // Nothing of them is left in Redis.
    expect(execFileSync('redis-cli', ['-p', String(port), 'keys', '*'], { encoding: 'utf8' }).trim()).toBe('');
  });

  test('a worker with other rules is refused, and one that comes when all is over leaves', async () => {
    const path = file('few.ndjson', `${rows(300, 9).join('\n')}\n`);
    const to = join(folder, 'few');
    const coordinator = start(path, to);
    while (!existsSync(join(to, 'job.json'))) await new Promise((resolve) => setTimeout(resolve, 100));
    const other = file('other/quay.mjs', `${readFileSync(module, 'utf8')}// other\n`);
    const joined = (path_: string, ...more: readonly string[]) => jestril(['screen', 'join', path_, '--to', to, '--redis', url(), ...more]);
    expect(joined(other)).toMatchObject({
      status: 3,
      stderr: expect.stringContaining('has other rules for "stay"'),
    });
    coordinator.kill('SIGINT');
    expect((await coordinator.ended).code).toBe(2);
    expect(jestril(['screen', 'end', to, '--redis', url()]).status).toBe(0);
    expect(joined(module).status).toBe(0);
  });
});
