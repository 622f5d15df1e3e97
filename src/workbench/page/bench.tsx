import { type ReactNode, useMemo, useState } from 'react';
import type { Asked, ModuleState } from '../wire/asked.ts';
import type { KeptCase } from '../wire/cases.ts';
import type { Reason } from '../wire/judged.ts';
import { Circumstances } from './circumstances.tsx';
import { ask, isProblem } from './client.ts';
import { caseOf, opened, WHERE_CHANGED } from './kept-case.ts';
import { Paste } from './submission/paste.tsx';
import { parsed, segmentsOf, withValue } from './submission/pointers.ts';
import { Sheet } from './submission/sheet.tsx';
import { Tabs } from './tabs.tsx';
import { useCases } from './use-cases.ts';
import { useJudgement } from './use-judgement.ts';
import { type Page, usePage } from './use-page.ts';
import { Answer } from './views/answer.tsx';
import { Cases } from './views/cases.tsx';
import { Graph } from './views/graph.tsx';
import { Import, type SeenImport } from './views/import.tsx';
import { Line } from './views/line.tsx';
import { PatternPad } from './views/pattern-pad.tsx';
import { Verdict } from './views/verdict.tsx';
import { WhatIf } from './views/what-if.tsx';
import { Why } from './views/why.tsx';

interface BenchProps {
  readonly module: ModuleState;
  /** It was saved, and the new load goes on. */
  readonly isLoading: boolean;
}

/** Everything about one intake: what is edited at the left, and at the right what it comes to and why. */
export function Bench({ module, isLoading }: BenchProps) {
  const cases = useCases(`${module.loads} ${module.casesSeen}`);
  const known = useMemo(
    () => cases.kept?.cases.map(({ kept }) => kept) ?? (cases.problem === undefined ? undefined : []),
    [cases.kept, cases.problem],
  );
  const page = usePage(module, known);
  // They outlive the intake that is open.
  const [tab, setTab] = useState('why');
  const [imported, setImported] = useState<SeenImport>({ path: '' });
  const { intake, shown, draft, settings } = page;
  const asked = useMemo<Asked | undefined>(() => {
    if (!draft) return undefined;
    const { submission, stored, itself } = draft;
    return { intake, submission, settings, ...(stored !== undefined && { stored, ...(itself && { itself }) }) };
  }, [draft, intake, settings]);
  // What is described stays on the page, also while its module does not load, which is said above.
  const banner = page.problem && !(shown && asked && module.problem) && (
    <p className="banner" role="alert">
      {page.problem}{' '}
      <button type="button" onClick={page.readAgain}>
        Try again
      </button>
    </p>
  );
  if (!shown || !asked || !draft) return banner || <p className="hint">Reading “{intake}” …</p>;
  return (
    <>
      {banner}
      <div className="bench">
        <Head module={module} page={page} isLoading={isLoading} />
        <Judged
          module={module}
          page={{ ...page, shown, draft }}
          asked={asked}
          cases={cases}
          view={{ tab, setTab, imported, setImported }}
        />
      </div>
    </>
  );
}

function Head({ module, page, isLoading }: BenchProps & { readonly page: Page }) {
  return (
    <header>
      <h1>
        <span>Jestril</span> workbench
      </h1>
      <code className="path">{module.path}</code>
      <span className="loading" role="status">
        {isLoading && 'saved; loading it …'}
      </span>
      <label className="inline">
        Intake{' '}
        <select value={page.intake} onChange={(event) => page.choose(event.target.value)}>
          {module.intakes.map((each) => (
            <option key={each}>{each}</option>
          ))}
        </select>
      </label>
    </header>
  );
}

interface JudgedProps {
  readonly module: ModuleState;
  readonly page: Page & { readonly shown: NonNullable<Page['shown']>; readonly draft: NonNullable<Page['draft']> };
  readonly asked: Asked;
  readonly cases: ReturnType<typeof useCases>;
  readonly view: {
    readonly tab: string;
    readonly imported: SeenImport;
    setTab(tab: string): void;
    setImported(imported: SeenImport): void;
  };
}

/** A number that tells one wish from the next. */
type Counted<T> = (T & { readonly count: number }) | undefined;
const counted =
  <T extends object>(wish: T) =>
  (last: Counted<T>) => ({ ...wish, count: (last?.count ?? 0) + 1 });

function Judged({ module, page, asked, cases, view }: JudgedProps) {
  const { shown, draft, settings, intake } = page;
  const { tab, setTab, imported, setImported } = view;
  const [chosen, setChosen] = useState<Counted<{ readonly use: string }>>();
  const [goTo, setGoTo] = useState<Counted<{ readonly pointer: string }>>();
  const judging = useJudgement(asked, module.loads);
  const { judgement, changed } = judging;
  const lit = useMemo(
    () => new Set(shown.rules.filter(({ reads }) => reads.some((path) => changed.has(path))).map(({ use }) => use)),
    [shown, changed],
  );
  const why = (use: string, pointers: readonly string[] = []) => {
    setTab('why');
    // What the engine itself finds is no rule; the first one that it kept from being judged tells how it came.
    const { reasons = [] } = judgement ?? {};
    const known =
      reasons.find((reason) => reason.use === use) ?? reasons.find(({ because }) => because.some((each) => pointers.includes(each)));
    setChosen(counted({ use: known?.use ?? use }));
  };
  const place = (pointer: string) => setGoTo(counted({ pointer }));
  const readOf = (name: string) => cases.kept?.cases.find(({ kept }) => kept.name === name)?.read ?? null;
  const keep = (name: string, more: Partial<KeptCase> = {}) => {
    const made = caseOf(name, draft, settings, shown, judgement);
    const put = { ...made, ...more };
    if (made) void cases.change([{ name, read: readOf(name), put, without: WHERE_CHANGED.filter((member) => put[member] === undefined) }]);
  };
  const sample = async ({ use, entry }: Reason) => {
    const told = await ask('sample', { ...asked, use, ...(entry !== undefined && { entry }) });
    setTab('cases');
    if (isProblem(told)) return cases.tell(told.problem);
    keep(`${use} ${told.holds ? 'holds' : 'fails'} for ${JSON.stringify(told.sample).slice(0, 60)}`, { samples: [told] });
  };
  const open = (kept: KeptCase) => {
    const { draft: next, settings: with_ } = opened(kept);
    page.open(next, with_);
  };
  const turn = (pointer: string, value: unknown) => {
    const submission = parsed(draft.submission);
    if (submission) page.put({ ...draft, submission: JSON.stringify(withValue(submission.value, segmentsOf(pointer), value), null, 2) });
  };
  const changedCases = cases.kept?.states.filter(({ isChanged }) => isChanged).length ?? 0;
  const views: readonly (readonly [id: string, title: string, view: () => ReactNode])[] = [
    [
      'why',
      'Why',
      () =>
        judgement && (
          <Why
            reasons={judgement.reasons}
            leftOut={judgement.leftOut}
            rules={shown.rules}
            lit={lit}
            chosen={chosen}
            onPlace={place}
            onSample={sample}
          />
        ),
    ],
    ['answer', 'Answer', () => <Answer asked={asked} loads={module.loads} />],
    [
      'graph',
      'Graph',
      () => (
        <Graph
          graphs={shown.graphs}
          rules={shown.rules}
          reasons={judgement?.reasons ?? []}
          changed={changed}
          lit={lit}
          onChoose={(use) => why(use)}
        />
      ),
    ],
    ['what-if', 'What if', () => <WhatIf asked={asked} shown={shown} judgement={judgement} loads={module.loads} onValue={turn} />],
    [
      'cases',
      changedCases > 0 ? `Cases (${changedCases} changed)` : 'Cases',
      () => (
        <Cases
          cases={cases}
          file={module.casesFile}
          intake={intake}
          hasSecrets={shown.hasSecrets}
          hindrance={judging.problem ?? (judging.isStale ? 'It is being judged.' : undefined)}
          onKeep={(name) => keep(name)}
          onOpen={open}
        />
      ),
    ],
    [
      'import',
      'Import',
      () => (
        <Import
          intake={intake}
          settings={settings}
          judgement={judging.isStale ? undefined : judgement}
          seen={imported}
          onSeen={setImported}
          onRow={({ intake: of, submission, settings: with_ }) => page.open({ intake: of, submission }, { ...settings, ...with_ })}
        />
      ),
    ],
    ['pattern', 'Pattern', () => <PatternPad />],
  ];
  return (
    <main>
      <Sheet draft={draft} shown={shown} judging={judging} goTo={goTo} onChange={page.put} onPlace={place}>
        <Circumstances settings={settings} shown={shown} module={module} onChange={page.set} />
        <Paste onTake={({ submission, as }) => page.open({ ...draft, submission }, { ...settings, as })} />
      </Sheet>
      <div className="result">
        <Verdict {...judging} onPlace={place} onWhy={why} />
        {judgement && <Line reasons={judgement.reasons} lit={lit} chosen={chosen?.use} onChoose={(use) => why(use)} />}
        <Tabs chosen={tab} onChoose={setTab} tabs={views.map(([id, title]) => [id, title] as const)}>
          {views.find(([id]) => id === tab)?.[2]()}
        </Tabs>
      </div>
    </main>
  );
}
