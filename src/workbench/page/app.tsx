import { useCallback, useEffect, useMemo, useState } from 'react';
import type { Asked, KeptCase, ModuleState, Reason, Settings, ShownIntake } from '../wire.ts';
import { Circumstances } from './circumstances.tsx';
import { ask, isProblem, type KeptCases, keepCases, keptCases, moduleState, onLoaded } from './client.ts';
import { type Draft, draftOf, remember, remembered } from './drafts.ts';
import { parsed, segmentsOf, withValue } from './submission/pointers.ts';
import { Sheet } from './submission/sheet.tsx';
import { Tabs } from './tabs.tsx';
import { useJudgement } from './use-judgement.ts';
import { Answer } from './views/answer.tsx';
import { Cases } from './views/cases.tsx';
import { Graph } from './views/graph.tsx';
import { Line } from './views/line.tsx';
import { PatternPad } from './views/pattern-pad.tsx';
import { Verdict } from './views/verdict.tsx';
import { WhatIf } from './views/what-if.tsx';
import { Why } from './views/why.tsx';

export function App() {
  const [module, setModule] = useState<ModuleState>();
  const [lost, setLost] = useState<string>();
  useEffect(() => {
    const load = () =>
      moduleState().then((told) => {
        // While a module does not load, what was known of it before stays on the page.
        if (isProblem(told) && !('path' in told)) setLost(told.problem);
        else {
          setLost(undefined);
          const next = told as ModuleState;
          setModule((last) =>
            next.problem && last && last.intakes.length > 0 ? { ...next, intakes: last.intakes, loads: last.loads } : next,
          );
        }
      });
    load();
    return onLoaded(load);
  }, []);
  if (!module) return <p className="hint">{lost ?? 'Loading the module …'}</p>;
  const problem = lost ?? module.problem;
  return (
    <>
      {problem && (
        <p className="banner" role="alert">
          {problem.replace(/[^.!?]$/, '$&.')} {module.intakes.length > 0 && 'What is shown is of the load before.'}
        </p>
      )}
      {module.intakes.length > 0 ? <Bench module={module} /> : <p className="hint">As soon as the module loads, its intakes are here.</p>}
    </>
  );
}

type Chosen = { readonly use: string; readonly count: number } | undefined;
type GoTo = { readonly pointer: string; readonly count: number } | undefined;

function Bench({ module }: { readonly module: ModuleState }) {
  const [name, setName] = useState(() => remembered(module.path, module.intakes));
  const [shown, setShown] = useState<ShownIntake>();
  const [draft, setDraft] = useState<Draft>();
  const [settings, setSettings] = useState<Settings>(module.defaults);
  const [problem, setProblem] = useState<string>();
  const [tries, setTries] = useState(0);
  const [tab, setTab] = useState('why');
  const [chosen, setChosen] = useState<Chosen>();
  const [goTo, setGoTo] = useState<GoTo>();
  const [kept, setKept] = useState<KeptCases>();
  const [casesProblem, setCasesProblem] = useState<string>();
  const intake = module.intakes.includes(name) ? name : (module.intakes[0] as string);

  const readCases = useCallback(async () => {
    const told = await keptCases();
    setCasesProblem(isProblem(told) ? told.problem : undefined);
    if (!isProblem(told)) setKept(told);
    return isProblem(told) ? undefined : told;
  }, []);

  // biome-ignore lint/correctness/useExhaustiveDependencies: another load of the module may describe it otherwise
  useEffect(() => {
    let isCurrent = true;
    Promise.all([
      ask('describe', { intake, locale: settings.locale, ...(module.defaults.now !== undefined && { now: module.defaults.now }) }),
      readCases(),
    ]).then(([told, cases]) => {
      if (!isCurrent) return;
      if (isProblem(told)) return setProblem(told.problem);
      setProblem(undefined);
      setShown(told);
      setDraft((last) => (last?.intake === intake ? last : draftOf(module.path, told, cases?.cases ?? [])));
      setSettings((last) => ({
        ...last,
        ...(last.given === undefined && told.given.length > 0 && { given: JSON.stringify(told.exampleGiven, null, 2) }),
      }));
    });
    return () => {
      isCurrent = false;
    };
  }, [intake, settings.locale, module.loads, readCases, tries]);

  const isReady = shown?.name === intake && draft?.intake === intake;
  const asked = useMemo<Asked | undefined>(() => {
    if (!draft || draft.intake !== intake) return undefined;
    const { submission, stored, itself } = draft;
    return { intake, submission, settings, ...(stored !== undefined && { stored, ...(itself && { itself }) }) };
  }, [draft, intake, settings]);
  const judging = useJudgement(asked, module.loads);
  const { judgement, changed } = judging;
  const lit = useMemo(
    () => new Set(shown?.rules.filter(({ reads }) => reads.some((path) => changed.has(path))).map(({ use }) => use)),
    [shown, changed],
  );

  const put = (next: Draft) => {
    setDraft(next);
    remember(module.path, next);
  };
  const why = (use: string, pointers: readonly string[] = []) => {
    setTab('why');
    // What the engine itself finds is no rule; the first one that it kept from being judged tells how it came.
    const { reasons = [] } = judgement ?? {};
    const known =
      reasons.find((reason) => reason.use === use) ?? reasons.find(({ because }) => because.some((each) => pointers.includes(each)));
    setChosen((last) => ({ use: known?.use ?? use, count: (last?.count ?? 0) + 1 }));
  };
  const place = (pointer: string) => setGoTo((last) => ({ pointer, count: (last?.count ?? 0) + 1 }));

  const isThere = isReady && asked !== undefined;
  // What is described stays on the page, also while its module does not load, which is said above.
  const banner = problem && !(isThere && module.problem) && (
    <p className="banner" role="alert">
      {problem}{' '}
      <button type="button" onClick={() => setTries(tries + 1)}>
        Try again
      </button>
    </p>
  );
  if (!isThere) return banner || <p className="hint">Reading “{intake}” …</p>;

  const save = async (cases: readonly KeptCase[]) => {
    const told = await keepCases(cases);
    if (isProblem(told)) setCasesProblem(told.problem);
    else await readCases();
  };
  const caseOf = (caseName: string): KeptCase | undefined => {
    const submission = parsed(draft.submission);
    const given = settings.given === undefined || shown.given.length === 0 ? undefined : parsed(settings.given)?.value;
    if (!submission || !judgement) return undefined;
    const { given: _, ...rest } = settings;
    return {
      name: caseName,
      intake,
      submission: submission.value,
      ...(draft.stored !== undefined && { stored: parsed(draft.stored)?.value }),
      ...(draft.stored !== undefined && draft.itself && { itself: parsed(draft.itself)?.value }),
      // A case that is judged by the clock would come out otherwise some day.
      settings: { ...rest, now: judgement.now, ...(given !== undefined && { given }) },
      came: {
        outcome: judgement.outcome,
        found: [
          ...judgement.findings.map(
            ({ use, places, severity }) =>
              `${use} ${places.map(({ pointer }) => pointer || '/').join(' ')}${severity === 'warning' ? ' (warning)' : ''}`,
          ),
          ...judgement.open.map(({ use, code }) => `${use} (${code})`),
        ].sort(),
      },
    };
  };
  const keep = (caseName: string) => {
    const made = caseOf(caseName);
    const others = kept?.cases ?? [];
    const earlier = others.find((each) => each.name === caseName);
    if (made)
      save(
        earlier
          ? others.map((each) => (each === earlier ? { ...made, ...(earlier.isProof && { isProof: true }) } : each))
          : [...others, made],
      );
  };
  const sample = async ({ use, entry }: Reason) => {
    const told = await ask('sample', { ...asked, use, ...(entry !== undefined && { entry }) });
    setTab('cases');
    if (isProblem(told)) return setCasesProblem(told.problem);
    const made = caseOf(`${use} ${told.holds ? 'holds' : 'fails'} for ${JSON.stringify(told.sample).slice(0, 60)}`);
    if (made) await save([...(kept?.cases ?? []).filter((each) => each.name !== made.name), { ...made, samples: [told] }]);
  };
  const open = (each: KeptCase) => {
    const { given, ...rest } = each.settings;
    setName(each.intake);
    setSettings({ ...rest, ...(given !== undefined && { given: JSON.stringify(given, null, 2) }) });
    put({
      intake: each.intake,
      submission: JSON.stringify(each.submission, null, 2),
      ...(each.stored !== undefined && { stored: JSON.stringify(each.stored, null, 2) }),
      ...(each.itself !== undefined && { itself: JSON.stringify(each.itself) }),
    });
  };
  const hindrance = judging.problem ?? (judging.isStale ? 'It is being judged.' : undefined);
  const changedCases = kept?.states.filter(({ isChanged }) => isChanged).length ?? 0;

  return (
    <>
      {banner}
      <div className="bench">
        <header>
          <h1>
            <span>Jestril</span> workbench
          </h1>
          <code className="path">{module.path}</code>
          <label className="inline">
            Intake{' '}
            <select
              value={intake}
              onChange={(event) => {
                setName(event.target.value);
                setSettings(({ given: _given, occasion: _occasion, ...rest }) => ({
                  ...rest,
                  ...(module.defaults.given !== undefined && { given: module.defaults.given }),
                }));
              }}
            >
              {module.intakes.map((each) => (
                <option key={each}>{each}</option>
              ))}
            </select>
          </label>
        </header>
        <main>
          <Sheet draft={draft} shown={shown} judging={judging} goTo={goTo} onChange={put} onPlace={place}>
            <Circumstances settings={settings} shown={shown} module={module} onChange={setSettings} />
          </Sheet>
          <div className="result">
            <Verdict {...judging} onPlace={place} onWhy={why} />
            {judgement && <Line reasons={judgement.reasons} lit={lit} chosen={chosen?.use} onChoose={(use) => why(use)} />}
            <Tabs
              chosen={tab}
              onChoose={setTab}
              tabs={[
                ['why', 'Why'],
                ['answer', 'Answer'],
                ['graph', 'Graph'],
                ['what-if', 'What if'],
                ['cases', changedCases > 0 ? `Cases (${changedCases} changed)` : 'Cases'],
                ['pattern', 'Pattern'],
              ]}
            >
              {tab === 'why' && judgement && (
                <Why
                  reasons={judgement.reasons}
                  leftOut={judgement.leftOut}
                  rules={shown.rules}
                  lit={lit}
                  chosen={chosen}
                  onPlace={place}
                  onSample={sample}
                />
              )}
              {tab === 'answer' && <Answer asked={asked} loads={module.loads} />}
              {tab === 'graph' && (
                <Graph
                  graph={shown.graph}
                  rules={shown.rules}
                  reasons={judgement?.reasons ?? []}
                  changed={changed}
                  lit={lit}
                  onChoose={(use) => why(use)}
                />
              )}
              {tab === 'what-if' && (
                <WhatIf
                  asked={asked}
                  shown={shown}
                  judgement={judgement}
                  loads={module.loads}
                  onValue={(pointer, value) => {
                    const submission = parsed(draft.submission);
                    if (submission)
                      put({ ...draft, submission: JSON.stringify(withValue(submission.value, segmentsOf(pointer), value), null, 2) });
                  }}
                />
              )}
              {tab === 'cases' && (
                <Cases
                  kept={kept}
                  problem={casesProblem}
                  module={module}
                  intake={intake}
                  hasSecrets={shown.hasSecrets}
                  hindrance={hindrance}
                  onKeep={keep}
                  onOpen={open}
                  onChange={save}
                  onRun={readCases}
                />
              )}
              {tab === 'pattern' && <PatternPad />}
            </Tabs>
          </div>
        </main>
      </div>
    </>
  );
}
