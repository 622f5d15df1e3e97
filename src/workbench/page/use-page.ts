import { useEffect, useState } from 'react';
import type { ModuleState, Settings } from '../wire/asked.ts';
import type { KeptCase } from '../wire/cases.ts';
import type { ShownIntake } from '../wire/shown.ts';
import { ask, isProblem } from './client.ts';
import { type Draft, draftOf, remember, remembered } from './drafts.ts';

/** What is edited on the page, and the intake that it is for. */
export interface Page {
  readonly intake: string;
  /** Nothing while it is read, or where it cannot be. */
  readonly shown: ShownIntake | undefined;
  readonly draft: Draft | undefined;
  readonly settings: Settings;
  readonly problem: string | undefined;
  readAgain(): void;
  choose(intake: string): void;
  put(draft: Draft): void;
  set(settings: Settings): void;
  /** Something that was kept or sent elsewhere takes the place of what is edited. */
  open(draft: Draft, settings: Settings): void;
}

/** @param cases those that are kept, once they were read: the first of an intake is what it begins with */
export function usePage(module: ModuleState, cases: readonly KeptCase[] | undefined): Page {
  const [name, setName] = useState(() => remembered(module.path, module.intakes));
  const [shown, setShown] = useState<ShownIntake>();
  const [draft, setDraft] = useState<Draft>();
  const [settings, setSettings] = useState<Settings>(module.defaults);
  const [problem, setProblem] = useState<string>();
  const [tries, setTries] = useState(0);
  const intake = module.intakes.includes(name) ? name : (module.intakes[0] as string);
  const { given, now } = module.defaults;

  useEffect(() => {
    let isCurrent = true;
    void ask('describe', { intake, locale: settings.locale, ...(now !== undefined && { now }) }).then((told) => {
      if (!isCurrent) return;
      setProblem(isProblem(told) ? told.problem : undefined);
      if (isProblem(told)) return;
      setShown(told);
      setSettings((last) => ({
        ...last,
        ...(last.given === undefined && told.given.length > 0 && { given: JSON.stringify(told.exampleGiven, null, 2) }),
      }));
    });
    return () => {
      isCurrent = false;
    };
  }, [intake, settings.locale, module.loads, tries]);

  const isReady = shown?.name === intake;
  useEffect(() => {
    if (isReady && cases) setDraft((last) => (last?.intake === intake ? last : draftOf(module.path, shown, cases)));
  }, [isReady, cases, intake, module.path, shown]);

  const put = (next: Draft) => {
    setDraft(next);
    remember(module.path, next);
  };
  return {
    intake,
    shown: isReady ? shown : undefined,
    draft: draft?.intake === intake ? draft : undefined,
    settings,
    problem,
    readAgain: () => setTries((count) => count + 1),
    choose: (next) => {
      setName(next);
      setSettings(({ given: _given, occasion: _occasion, ...rest }) => ({ ...rest, ...(given !== undefined && { given }) }));
    },
    put,
    set: setSettings,
    open: (next, with_) => {
      setName(next.intake);
      setSettings(with_);
      put(next);
    },
  };
}
