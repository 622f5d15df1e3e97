import type { ModuleState, Settings } from '../wire/asked.ts';
import type { ShownIntake } from '../wire/shown.ts';

interface CircumstancesProps {
  readonly settings: Settings;
  readonly shown: ShownIntake;
  readonly module: ModuleState;
  onChange(settings: Settings): void;
}

/** How the submission is judged: everything besides itself. */
export function Circumstances({ settings, shown, module, onChange }: CircumstancesProps) {
  const put = (more: Partial<Record<keyof Settings, string | undefined>>) => {
    const all = { ...settings, ...more } as Record<string, unknown>;
    onChange(Object.fromEntries(Object.entries(all).filter(([, value]) => value !== undefined)) as unknown as Settings);
  };
  const { records } = settings;
  const isElsewhere = records !== '' && records !== 'module';
  return (
    <details className="circumstances">
      <summary>
        Judged <b>{settings.occasion ?? shown.occasions[0]}</b>, at <b>{settings.now ?? 'the clock'}</b>
        {shown.collections.length > 0 && (
          <>
            , asking <b>{records === '' ? 'nobody' : records === 'module' ? "the module's records" : records}</b>
          </>
        )}
      </summary>
      <div className="grid">
        <label>
          Occasion
          <select value={settings.occasion ?? ''} onChange={(event) => put({ occasion: event.target.value || undefined })}>
            <option value="">{shown.occasions[0]} (the first)</option>
            {shown.occasions.slice(1).map((each) => (
              <option key={each}>{each}</option>
            ))}
          </select>
        </label>
        <label>
          Now
          <input
            value={settings.now ?? ''}
            placeholder="the clock"
            onChange={(event) => put({ now: event.target.value.trim() || undefined })}
            autoComplete="off"
          />
        </label>
        <label>
          Language
          <select value={settings.locale} onChange={(event) => put({ locale: event.target.value })}>
            {[...new Set([...shown.locales, settings.locale])].map((each) => (
              <option key={each}>{each}</option>
            ))}
          </select>
        </label>
        <label>
          Read as
          <select value={settings.as} onChange={(event) => put({ as: event.target.value })}>
            <option value="json">JSON</option>
            <option value="form">a form: texts</option>
          </select>
        </label>
        <label>
          Findings
          <select value={settings.report} onChange={(event) => put({ report: event.target.value })}>
            <option value="everything">all of them</option>
            <option value="firstOfEach">the first of each place</option>
            <option value="firstOfAll">the first</option>
          </select>
        </label>
        {shown.collections.length > 0 && (
          <>
            <label>
              Records
              <select
                value={isElsewhere ? 'elsewhere' : records}
                onChange={(event) => put({ records: event.target.value === 'elsewhere' ? elsewhere(module) : event.target.value })}
              >
                <option value="">none</option>
                {module.hasRecords && <option value="module">the module's own</option>}
                <option value="elsewhere">a file or database …</option>
              </select>
            </label>
            {isElsewhere && (
              <label className="wide">
                Where: a JSON file, a module, or a database
                <input value={records} onChange={(event) => put({ records: event.target.value })} spellCheck={false} autoComplete="off" />
              </label>
            )}
          </>
        )}
        {shown.given.length > 0 && (
          <label className="wide">
            Given: {shown.given.map(({ label }) => label).join(', ')}
            <textarea
              className="mono"
              rows={3}
              value={settings.given ?? ''}
              onChange={(event) => put({ given: event.target.value })}
              spellCheck={false}
            />
          </label>
        )}
      </div>
    </details>
  );
}

function elsewhere({ defaults }: ModuleState): string {
  return defaults.records !== '' && defaults.records !== 'module' ? defaults.records : 'records.json';
}
