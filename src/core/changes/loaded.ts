// Loaded when a change is first judged: what loads it by itself, too, would keep a bundler from parting them.
export { amend } from './amend.ts';
