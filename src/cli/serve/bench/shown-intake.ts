import { graphOf } from '../../../core/beside.ts';
import type { KindSpec } from '../../../core/declared/kind.ts';
import { planOf } from '../../../core/intake.ts';
import { toldOf } from '../../../core/kinds/told.ts';
import { textIn } from '../../../core/messages/render.ts';
import { bySort } from '../../../core/plan/by-sort.ts';
import type { FieldStep, FieldSteps, ListStep, Plan } from '../../../core/plan/plan.ts';
import { walkSteps } from '../../../core/plan/walk.ts';
import { type DescribedField, descriptionOf } from '../../../describe/description.ts';
import { laidOut } from '../../../describe/drawing.ts';
import { languagesOf } from '../../../http/receive/negotiate.ts';
import { Maker } from '../../../made/index.ts';
import type { ShownField, ShownIntake, ShownRule } from '../../../workbench/wire/shown.ts';
import type { LoadedIntake } from '../../basics/loading.ts';

/** An intake as the page shows it. */
export async function shownIntake(intake: LoadedIntake, locale: string, now: Date): Promise<ShownIntake> {
  const plan = planOf(intake);
  const description = await descriptionOf(intake, { locale, now, examples: false });
  const described = new Map([...description.fields, ...description.given].map((field) => [field.path, field]));
  const graph = graphOf(intake);
  const sentences = new Map(
    [...description.rules, ...[...described.values()].flatMap(({ rules }) => rules)].map((rule) => [rule.use, rule] as const),
  );
  const own = new Set(plan.uses.filter(({ definition }) => definition.isOurs !== true).map(({ use }) => use));
  const { situation } = (await new Maker(intake, { locale, now }).accepted()) ?? {};
  return {
    name: plan.name,
    fields: fieldsOf(plan.fields, described, locale),
    given: fieldsOf(plan.given, described, locale),
    rules: graph.rules.map(({ use, rule, step, reads, asks, when }): ShownRule => {
      const { sentence = rule, terms = [] } = sentences.get(use) ?? {};
      return { use, rule, step, sentence, terms, reads, asks, when, isOwn: own.has(use) };
    }),
    graphs: { several: laidOut(graph), all: laidOut(graph, { withValues: true }) },
    occasions: plan.occasions,
    locales: languagesOf([intake]),
    zone: plan.zone,
    ...(plan.storedIn && { storedIn: { collection: plan.storedIn.name, key: plan.storedIn.key } }),
    collections: plan.collections.map(({ name }) => name),
    hasSecrets: hasSecrets(plan),
    example: situation?.submission ?? {},
    exampleGiven: situation?.given ?? {},
  };
}

function hasSecrets({ fields }: Plan): boolean {
  let found = false;
  walkSteps(fields, ({ place }) => {
    found ||= place.isSecret;
  });
  return found;
}

function fieldsOf({ steps }: FieldSteps, described: ReadonlyMap<string, DescribedField>, locale: string): ShownField[] {
  return steps.map((step) => fieldOf(step, described, locale));
}

function fieldOf(step: FieldStep, described: ReadonlyMap<string, DescribedField>, locale: string): ShownField {
  const { place, kind, needed } = step;
  const { options = [] } = kind.facts ?? {};
  const words = kind.words?.options ?? [];
  const more = described.get(place.path);
  const inside = ({ item }: ListStep) => ({ item: fieldOf(item, described, locale) });
  return {
    key: step.key,
    path: place.path,
    label: textIn(place.label, locale) || step.key,
    kind: more?.kind ?? kind.name,
    isNeeded: needed,
    isSecret: place.isSecret,
    rules: more?.rules.map(({ sentence }) => sentence) ?? [],
    options: options.map((option, at) => ({ value: option as string | number, label: textIn(words[at] ?? String(option), locale) })),
    ...bySort<Pick<ShownField, 'sort' | 'inner' | 'item' | 'tag' | 'shapes'>>(step, {
      scalar: () => ({ sort: sortOf(kind) }),
      group: ({ inner }) => ({ sort: 'group', inner: fieldsOf(inner, described, locale) }),
      list: (list) => ({ sort: 'list', ...inside(list) }),
      table: (table) => ({ sort: 'table', ...inside(table) }),
      shapes: ({ tag, shapes }) => ({
        sort: 'shapes',
        tag,
        shapes: [...shapes].map(([name, fields]) => ({ name, fields: fieldsOf(fields, described, locale) })),
      }),
    }),
  };
}

function sortOf(kind: KindSpec): ShownField['sort'] {
  if (kind.facts?.options) return 'choice';
  const told = toldOf(kind);
  return told ? (told.shownAs ?? 'text') : 'json';
}
