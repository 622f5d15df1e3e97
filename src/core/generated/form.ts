/**
 * Tells how code is written, and what it calls: a hash of the code of some plans, with the helpers. A test makes it, and says
 * what to write here once it is another; code that was written ahead of time is then refused.
 */
export const FORM = '4bca2ed50859';
