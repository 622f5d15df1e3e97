import { compareIntakes } from '../../compare/index.ts';
import type { Verdict } from '../../core/basics/verdict.ts';
import { planOf } from '../../core/intake.ts';
import { wordsIn } from '../../core/messages/catalogues/shipped.ts';
import { conditionIn } from '../../describe/words/sentences.ts';
import type { Context } from '../basics/context.ts';
import { type LoadedIntake, loadIntakes } from '../basics/loading.ts';
import { EXIT, type Exit } from '../basics/misuse.ts';
import { fieldsByColumn } from '../reading/columns.ts';
import type { Datum } from '../reading/data.ts';
import { readData } from '../reading/read-data.ts';
import { checkLocale, type JudgingFlags, momentAt, settingsFor } from '../records/settings.ts';
import { asJson, asText, type Compared, type Judged } from './print.ts';
import { versionOf } from './revision.ts';

export interface CompareFlags extends JudgingFlags {
  readonly intake?: string;
  readonly data?: readonly string[];
  readonly format: 'text' | 'json';
}

export async function compare(old: string, next: string, flags: CompareFlags, context: Context): Promise<Exit> {
  checkLocale(flags.locale);
  const before = versionOf(old, next);
  const after = versionOf(next, old);
  try {
    const compared = await comparedOf(
      await loadIntakes(before.path, flags.intake),
      await loadIntakes(after.path, flags.intake),
      flags,
      context,
    );
    await context.out(flags.format === 'json' ? asJson(compared) : asText(compared, context));
    return exitOf(compared);
  } finally {
    before.close();
    after.close();
  }
}

async function comparedOf(
  before: Map<string, LoadedIntake>,
  after: Map<string, LoadedIntake>,
  flags: CompareFlags,
  context: Context,
): Promise<Compared[]> {
  const byName = (intakes: Map<string, LoadedIntake>) => new Map([...intakes.values()].map((intake) => [intake.name, intake]));
  const [old, next] = [byName(before), byName(after)];
  const compared: Compared[] = [];
  for (const name of new Set([...old.keys(), ...next.keys()])) {
    const [was, is] = [old.get(name), next.get(name)];
    if (!was || !is) {
      compared.push({ name, only: was ? 'old' : 'new', differences: [] });
      continue;
    }
    const options = {
      locale: flags.locale,
      ...(flags.now !== undefined && { now: momentAt(flags.now) }),
      ...(flags.occasion !== undefined && { occasion: flags.occasion }),
    };
    const differences = await compareIntakes(was, is, options);
    const conditions = (use: string) => ({ before: conditionsIn(was, use, flags.locale), after: conditionsIn(is, use, flags.locale) });
    compared.push({ name, differences, conditions, ...(flags.data && { judged: await judgedBy(was, is, flags, context) }) });
  }
  return compared;
}

/** Judges the same submissions by both versions. */
async function judgedBy(before: LoadedIntake, after: LoadedIntake, flags: CompareFlags, context: Context): Promise<Judged> {
  const [old, next] = [await settingsFor(before, flags, context), await settingsFor(after, flags, context)];
  try {
    const now = old.options.now ?? new Date();
    const changed: Judged['changed'][number][] = [];
    const trials = new Map<string, number>();
    let count = 0;
    for (const path of flags.data ?? []) {
      const data: Datum[] = [];
      let isForm = false;
      const { pathOf, isField } = fieldsByColumn(after);
      const reading = readData(path, context.stdin, {
        pathOf,
        isField,
        begun: ({ format }) => (isForm = format === 'csv' || format === 'form'),
      });
      for await (const datum of reading) if ('submission' in datum) data.push(datum);
      const as = isForm ? 'form' : 'json';
      const submissions = data.map((datum) => ('submission' in datum ? datum.submission : undefined));
      const [was, is] = [
        before.judgeMany(submissions, { ...old.options, now, as } as never),
        after.judgeMany(submissions, { ...next.options, now, as } as never),
      ];
      for (const datum of data) {
        const [one, two] = [(await was.next()).value, (await is.next()).value] as { readonly verdict: Verdict<unknown> }[] as [
          { verdict: Verdict<unknown> },
          { verdict: Verdict<unknown> },
        ];
        count++;
        for (const { use, outcome } of two.verdict.trials ?? []) if (outcome === 'failed') trials.set(use, (trials.get(use) ?? 0) + 1);
        if (one.verdict.outcome !== two.verdict.outcome) changed.push({ datum, before: one.verdict, after: two.verdict });
      }
    }
    return { count, changed, trials };
  } finally {
    await old.close();
    await next.close();
  }
}

function exitOf(compared: readonly Compared[]): Exit {
  const all = compared.flatMap(({ differences }) => differences);
  const isBroken = compared.some(
    ({ only, judged }) =>
      only === 'old' || judged?.changed.some(({ before, after }) => before.outcome === 'accepted' && after.outcome !== 'accepted'),
  );
  if (isBroken || all.some(({ breaks }) => breaks)) return EXIT.rejected;
  return all.some(({ change }) => change === 'changed') ? EXIT.undecided : EXIT.accepted;
}

/** When a rule of an intake applies, in words. */
function conditionsIn(intake: LoadedIntake, use: string, locale: string): string {
  const words = wordsIn(locale);
  const conditions = planOf(intake).uses.find((each) => each.use === use)?.when ?? [];
  return conditions.length === 0 ? 'always' : conditions.map((condition) => conditionIn(condition, words, locale)).join(` ${words.and} `);
}
