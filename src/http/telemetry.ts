import { type Meter, metrics, SpanStatusCode, type Tracer, trace } from '@opentelemetry/api';
import type { Verdict } from '../core/basics/verdict.ts';
import type { Question, Records } from '../core/stored/records.ts';
import type { Telemetry } from './receive/telemetry.ts';

export type { Telemetry } from './receive/telemetry.ts';

/**
 * Tells OpenTelemetry what is judged: a span for each judgement (`jestril.judge`) and for each round of questions to the records
 * (`jestril.ask`), and counters of judgements by intake and outcome, of findings by intake and rule, of what was unsettled by intake and
 * reason. Names only: no value, no message. For the option `telemetry` of `receive`, and for judgements of one's own.
 *
 * @param from whose spans and counters these are; the default is what the application has registered with `@opentelemetry/api`
 */
export function telemetry(from: { readonly tracer?: Tracer; readonly meter?: Meter } = {}): Telemetry {
  const tracer = from.tracer ?? trace.getTracer('jestril');
  const meter = from.meter ?? metrics.getMeter('jestril');
  const judgements = meter.createCounter('jestril.judgements', { description: 'Judgements, by intake and outcome.' });
  const findings = meter.createCounter('jestril.findings', { description: 'Findings, by intake, rule and severity.' });
  const unsettled = meter.createCounter('jestril.unsettled', { description: 'Uses that could not be settled, by intake and reason.' });

  function count(intake: string, verdict: Verdict<unknown>): void {
    judgements.add(1, { 'jestril.intake': intake, 'jestril.outcome': verdict.outcome });
    for (const { rule, severity } of verdict.outcome === 'rejected' ? verdict.findings : verdict.warnings)
      findings.add(1, { 'jestril.intake': intake, 'jestril.rule': rule, 'jestril.severity': severity });
    for (const { why } of verdict.unsettled) unsettled.add(1, { 'jestril.intake': intake, 'jestril.why': why });
  }

  function spanned<T>(
    name: string,
    attributes: { readonly [name: string]: string | number },
    run: () => Promise<T>,
    told?: (result: T) => object,
  ) {
    return tracer.startActiveSpan(name, { attributes }, async (span) => {
      try {
        const result = await run();
        if (told) span.setAttributes(told(result) as { [name: string]: string | number });
        return result;
      } catch (error) {
        // What is thrown may quote what was sent.
        span.setAttribute('error.type', error instanceof Error ? error.name : typeof error);
        span.setStatus({ code: SpanStatusCode.ERROR });
        throw error;
      } finally {
        span.end();
      }
    });
  }

  const asked = (questions: readonly Question[]) => ({
    'jestril.questions': questions.length,
    'jestril.collections': [...new Set(questions.map(({ collection }) => collection))].sort().join(),
  });

  function records<R extends Records>(of: R): R {
    return new Proxy(of, {
      get(target, name) {
        const own: unknown = Reflect.get(target, name, target);
        if (typeof own !== 'function') return own;
        if (name === 'ask') {
          const ask = own as Records['ask'];
          return (...all: Parameters<Records['ask']>) => spanned('jestril.ask', asked(all[0]), async () => ask.apply(target, all));
        }
        if (name !== 'serially' && name !== 'within') return own.bind(target);
        return name === 'within'
          ? (...all: unknown[]) => records(own.apply(target, all))
          : (run: (inside: Records, ...more: unknown[]) => unknown, ...more: unknown[]) =>
              own.call(target, (inside: Records, ...rest: unknown[]) => run(records(inside), ...rest), ...more);
      },
    });
  }

  return {
    records,
    judging: (intake, run, verdictOf = (result) => result as Verdict<unknown>) =>
      spanned('jestril.judge', { 'jestril.intake': intake }, run, (result) => {
        const verdict = verdictOf(result);
        count(intake, verdict);
        const found = verdict.outcome === 'rejected' ? verdict.findings.length : 0;
        return { 'jestril.outcome': verdict.outcome, 'jestril.findings': found, 'jestril.unsettled': verdict.unsettled.length };
      }),
  };
}
