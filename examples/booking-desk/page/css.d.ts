// Styles are taken along by the bundler.
declare module '*.css';
