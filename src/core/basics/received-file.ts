/** Marks what a transport has received as a file, so that nothing that JSON can say is taken for one. */
export const RECEIVED = Symbol.for('jestril.received-file');
