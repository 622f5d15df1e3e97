import { type KeyboardEvent, type PointerEvent, useEffect, useRef, useState } from 'react';

/** How much is seen of a drawing: all of it at 1, and a part of it beyond; the place is the middle of what is seen, in its own units. */
interface Seen {
  readonly scale: number;
  readonly x: number;
  readonly y: number;
}

const MOST = 12;
const STEP = 1.35;
/** Pixels that a pointer moves before it moves the drawing: less is a click. */
const PATIENCE = 4;

/** A drawing that fits its frame, and can be enlarged and moved: by buttons, keys, a pointer, and a wheel with Ctrl. */
export function useViewBox({ width, height }: { readonly width: number; readonly height: number }) {
  const whole = { scale: 1, x: width / 2, y: height / 2 };
  const [seen, setSeen] = useState<Seen>(whole);
  const frame = useRef<SVGSVGElement>(null);
  const dragged = useRef<{ readonly x: number; readonly y: number; isMoving: boolean }>(undefined);
  useEffect(() => setSeen(whole), [width, height]);

  const kept = ({ scale, x, y }: Seen): Seen => {
    const held = Math.min(MOST, Math.max(1, scale));
    const within = (value: number, size: number) => Math.min(size - size / held / 2, Math.max(size / held / 2, value));
    return { scale: held, x: within(x, width), y: within(y, height) };
  };
  const enlarge = (by: number) => setSeen((last) => kept({ ...last, scale: last.scale * by }));
  const move = (x: number, y: number) => setSeen((last) => kept({ ...last, x: last.x + x, y: last.y + y }));

  useEffect(() => {
    const { current } = frame;
    // Only a listener that is not passive keeps the page itself from being enlarged.
    const turned = (event: WheelEvent) => {
      if (!event.ctrlKey) return;
      event.preventDefault();
      enlarge(event.deltaY < 0 ? STEP : 1 / STEP);
    };
    current?.addEventListener('wheel', turned, { passive: false });
    return () => current?.removeEventListener('wheel', turned);
  });

  const part = { width: width / seen.scale, height: height / seen.scale };
  return {
    seen,
    enlarge: () => enlarge(STEP),
    lessen: () => enlarge(1 / STEP),
    fit: () => setSeen(whole),
    svg: {
      ref: frame,
      viewBox: `${seen.x - part.width / 2} ${seen.y - part.height / 2} ${part.width} ${part.height}`,
      onPointerDown: ({ clientX, clientY }: PointerEvent) => {
        dragged.current = { x: clientX, y: clientY, isMoving: false };
      },
      onPointerMove: ({ clientX, clientY, pointerId, currentTarget }: PointerEvent<SVGSVGElement>) => {
        const from = dragged.current;
        if (!from) return;
        const [x, y] = [clientX - from.x, clientY - from.y];
        if (!from.isMoving && Math.hypot(x, y) < PATIENCE) return;
        currentTarget.setPointerCapture(pointerId);
        const pixel = currentTarget.getScreenCTM()?.a ?? 1;
        move(-x / pixel, -y / pixel);
        dragged.current = { x: clientX, y: clientY, isMoving: true };
      },
      onPointerUp: () => {
        dragged.current = undefined;
      },
      onPointerCancel: () => {
        dragged.current = undefined;
      },
    },
    onKeyDown: (event: KeyboardEvent) => {
      const [x, y] = [part.width / 8, part.height / 8];
      const act = {
        '+': () => enlarge(STEP),
        '=': () => enlarge(STEP),
        '-': () => enlarge(1 / STEP),
        '0': () => setSeen(whole),
        ArrowLeft: () => move(-x, 0),
        ArrowRight: () => move(x, 0),
        ArrowUp: () => move(0, -y),
        ArrowDown: () => move(0, y),
      }[event.key];
      if (!act || event.ctrlKey || event.metaKey || event.altKey) return;
      // Seen as a whole, the keys go on moving the page.
      if (event.key.startsWith('Arrow') && seen.scale === 1) return;
      event.preventDefault();
      act();
    },
  };
}
