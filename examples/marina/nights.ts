import { addDays, type Day, nightsBetween } from 'jestril';

/** The nights of a stay, each by the day it begins on. */
export function nightsOf({ arrives, departs }: { readonly arrives: string; readonly departs: string }): Day[] {
  return Array.from({ length: nightsBetween(arrives as Day, departs as Day) }, (_, night) => addDays(arrives as Day, night));
}
