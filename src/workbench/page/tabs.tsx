import { type KeyboardEvent, type ReactNode, useRef } from 'react';

interface TabsProps {
  readonly tabs: readonly (readonly [id: string, title: string])[];
  readonly chosen: string;
  readonly children: ReactNode;
  onChoose(id: string): void;
}

/** Tabs as the ARIA Authoring Practices have them: arrows go from one to the next. */
export function Tabs({ tabs, chosen, children, onChoose }: TabsProps) {
  const home = useRef<HTMLDivElement>(null);
  const move = (event: KeyboardEvent) => {
    const at = tabs.findIndex(([id]) => id === chosen);
    const next = { ArrowRight: at + 1, ArrowLeft: at - 1, Home: 0, End: tabs.length - 1 }[event.key];
    const tab = next === undefined ? undefined : tabs[(next + tabs.length) % tabs.length];
    if (!tab) return;
    event.preventDefault();
    onChoose(tab[0]);
    home.current?.querySelector<HTMLElement>(`#tab-${tab[0]}`)?.focus();
  };
  return (
    <section className="tabs">
      <div role="tablist" aria-label="More about the verdict" ref={home} onKeyDown={move}>
        {tabs.map(([id, title]) => (
          <button
            type="button"
            role="tab"
            id={`tab-${id}`}
            key={id}
            aria-selected={id === chosen}
            aria-controls="panel"
            tabIndex={id === chosen ? 0 : -1}
            onClick={() => onChoose(id)}
          >
            {title}
          </button>
        ))}
      </div>
      <div role="tabpanel" id="panel" aria-labelledby={`tab-${chosen}`}>
        {children}
      </div>
    </section>
  );
}
