import { useEffect, useState } from 'react';
import type { Band, Turning } from '../../wire/judged.ts';

interface StripProps {
  readonly turning: Turning;
  readonly current: string | number | undefined;
  onValue(value: string | number): void;
}

/** The values of a number or day as a strip, coloured by what each comes to, with a slider on it. */
export function Strip({ turning, current, onValue }: StripProps) {
  const { values, bands, sort } = turning;
  const places = values.map((value) => placeOf(value, sort));
  const [first, last] = [places[0] as number, places.at(-1) as number];
  const share = (value: string | number) => (100 * (placeOf(value, sort) - first)) / Math.max(1e-9, last - first);
  const nearest = indexOf(places, current === undefined ? first : placeOf(current, sort));
  const [index, setIndex] = useState(nearest);
  useEffect(() => setIndex(nearest), [nearest]);
  const value = values[index] as string | number;
  const here = bandAt(bands, value, sort);
  const move = (to: number) => {
    setIndex(to);
    onValue(values[to] as string | number);
  };
  return (
    <div className="strip">
      <div className="bands" aria-hidden="true">
        {bands.map((band, at) => {
          const next = bands[at + 1];
          const from = at === 0 ? 0 : share(band.from);
          const to = next ? share(next.from) : 100;
          // biome-ignore lint/suspicious/noArrayIndexKey: bands have nothing but their place
          return <i key={at} className={band.outcome} style={{ left: `${from}%`, width: `${Math.max(0.4, to - from)}%` }} />;
        })}
        {current !== undefined && <b style={{ left: `${Math.max(0, Math.min(100, share(current)))}%` }} />}
      </div>
      <input
        type="range"
        min={first}
        max={last}
        step={sort === 'day' ? 1 : 'any'}
        value={places[index]}
        aria-label={`Value of ${turning.pointer}`}
        aria-valuetext={`${value}: ${here?.outcome ?? ''} ${here?.by.join(', ') ?? ''}`}
        onChange={(event) => move(indexOf(places, Number(event.target.value)))}
        onKeyDown={(event) => {
          // A key goes to the next value that was judged, so that it stops on both sides of a turn.
          const by = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1 }[event.key];
          if (by === undefined) return;
          event.preventDefault();
          move(Math.max(0, Math.min(values.length - 1, index + by)));
        }}
      />
      <ul>
        {bands.map((band) => (
          <li key={`${band.from} ${band.to}`} className={band === here ? 'here' : ''}>
            <code>{band.from === band.to ? band.from : `${band.from} … ${band.to}`}</code>{' '}
            <strong className={band.outcome}>{band.outcome}</strong>
            {band.by.length > 0 && <> by {band.by.join(', ')}</>}
          </li>
        ))}
      </ul>
    </div>
  );
}

function placeOf(value: string | number, sort: Turning['sort']): number {
  return sort === 'day' ? Date.parse(`${value}T00:00:00Z`) / 86_400_000 : Number(value);
}

function indexOf(places: readonly number[], wanted: number): number {
  let best = 0;
  for (const [index, place] of places.entries()) if (Math.abs(place - wanted) < Math.abs((places[best] as number) - wanted)) best = index;
  return best;
}

function bandAt(bands: readonly Band[], value: string | number, sort: Turning['sort']): Band | undefined {
  const at = placeOf(value, sort);
  return bands.find((band) => placeOf(band.from, sort) <= at && at <= placeOf(band.to, sort));
}
