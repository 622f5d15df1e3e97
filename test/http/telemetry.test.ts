import { AsyncLocalStorage } from 'node:async_hooks';
import { type Context, context, ROOT_CONTEXT } from '@opentelemetry/api';
import { AggregationTemporality, InMemoryMetricExporter, MeterProvider, PeriodicExportingMetricReader } from '@opentelemetry/sdk-metrics';
import { BasicTracerProvider, InMemorySpanExporter, SimpleSpanProcessor } from '@opentelemetry/sdk-trace-base';
import { collection, intake, known, text } from 'jestril';
import { receive } from 'jestril/fetch';
import { memoryRecords } from 'jestril/memory';
import { telemetry } from 'jestril/telemetry';

// What OpenTelemetry is told: spans and counters by name, and nothing that somebody has sent.

const exporter = new InMemorySpanExporter();
const tracer = new BasicTracerProvider({ spanProcessors: [new SimpleSpanProcessor(exporter)] }).getTracer('test');
const counted = new InMemoryMetricExporter(AggregationTemporality.CUMULATIVE);
const reader = new PeriodicExportingMetricReader({ exporter: counted, exportIntervalMillis: 1e8 });
const meters = new MeterProvider({ readers: [reader] });
const seen = telemetry({ tracer, meter: meters.getMeter('test') });

const active = new AsyncLocalStorage<Context>();
beforeAll(() =>
  context.setGlobalContextManager({
    active: () => active.getStore() ?? ROOT_CONTEXT,
    with: (own, run, self, ...all) => active.run(own, () => run.apply(self, all)),
    bind: (_own, target) => target,
    enable: () => context as never,
    disable: () => context as never,
  }),
);
afterAll(async () => {
  context.disable();
  await meters.shutdown();
});

const berths = collection('berths', { code: text }, { key: 'code' });
const stay = intake('stay', { berth: text('Berth') }, { rules: [known(berths, { code: 'berth' })] });
const there = memoryRecords({ berths: [{ code: 'A1' }] });
const away = { ask: () => Promise.reject(new TypeError('The password is Hidden7.')) };

const spans = () => {
  const told = exporter.getFinishedSpans().map((span) => ({
    name: span.name,
    attributes: span.attributes,
    status: span.status.code,
    parent: span.parentSpanContext?.spanId,
    id: span.spanContext().spanId,
  }));
  exporter.reset();
  return told;
};

test('a span for a judgement, and within it one for each round of questions; counters by intake, rule and outcome', async () => {
  const post = (records: typeof there | typeof away) => receive(stay, { records, telemetry: seen }, () => ({ status: 200 }));
  const send = (records: typeof there | typeof away, berth: string) =>
    post(records)(
      new Request('http://x/', { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify({ berth }) }),
    );
  expect([(await send(there, 'A1')).status, (await send(there, 'Secret9')).status, (await send(away as never, 'A1')).status]).toEqual([
    200, 422, 503,
  ]);
  const told = spans();
  const ask = { 'jestril.questions': 1, 'jestril.collections': 'berths' };
  const judge = (outcome: string, findings = 0, unsettled = 0) => ({
    'jestril.intake': 'stay',
    'jestril.outcome': outcome,
    'jestril.findings': findings,
    'jestril.unsettled': unsettled,
  });
  expect(told.map(({ name, attributes, status }) => [name, attributes, status])).toEqual([
    ['jestril.ask', ask, 0],
    ['jestril.judge', judge('accepted'), 0],
    ['jestril.ask', ask, 0],
    ['jestril.judge', judge('rejected', 1), 0],
    ['jestril.ask', { ...ask, 'error.type': 'TypeError' }, 2],
    ['jestril.judge', judge('undecided', 0, 1), 0],
  ]);
  expect(told[0]?.parent).toBe(told[1]?.id);
  await reader.forceFlush();
  const points = counted
    .getMetrics()
    .flatMap(({ scopeMetrics }) => scopeMetrics)
    .flatMap(({ metrics }) =>
      metrics.flatMap(({ descriptor, dataPoints }) => dataPoints.map(({ attributes, value }) => [descriptor.name, attributes, value])),
    );
  expect(points).toEqual([
    ['jestril.judgements', { 'jestril.intake': 'stay', 'jestril.outcome': 'accepted' }, 1],
    ['jestril.judgements', { 'jestril.intake': 'stay', 'jestril.outcome': 'rejected' }, 1],
    ['jestril.judgements', { 'jestril.intake': 'stay', 'jestril.outcome': 'undecided' }, 1],
    ['jestril.findings', { 'jestril.intake': 'stay', 'jestril.rule': 'known', 'jestril.severity': 'error' }, 1],
    ['jestril.unsettled', { 'jestril.intake': 'stay', 'jestril.why': 'unavailable' }, 1],
  ]);
  expect(JSON.stringify([told, points])).not.toMatch(/Secret9|Hidden7/);
});

test('a judgement of one’s own; records keep all that they have', async () => {
  class Own {
    readonly #answers = [[1]];
    readonly isSerial = true;
    ask(_questions: readonly unknown[]) {
      return Promise.resolve(this.#answers);
    }
    conflictOf() {
      return { sort: 'unique' as const, columns: this.#answers.map(String) };
    }
    serially(run: (records: Own, transaction: string) => unknown) {
      return run(this, 'transaction');
    }
    within() {
      return new Own();
    }
  }
  const records = seen.records(new Own() as never) as unknown as Own;
  const verdict = await seen.judging('stay', () => stay.judge({ berth: 'A1' }, { records: records as never }));
  expect([verdict.outcome, records.isSerial, records.conflictOf().columns]).toEqual(['accepted', true, ['1']]);
  spans();
  await records.serially((inside, transaction) => Promise.all([inside.ask([]), transaction]));
  await records.within().ask([]);
  expect(spans().map(({ name }) => name)).toEqual(['jestril.ask', 'jestril.ask']);
  const failing = seen.judging('stay', () => Promise.reject(new RangeError('Hidden7')));
  await expect(failing).rejects.toThrow('Hidden7');
  expect(spans().map(({ attributes }) => attributes['error.type'])).toEqual(['RangeError']);
});
