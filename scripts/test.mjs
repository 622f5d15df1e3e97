// npm test: all suites, with the arguments of Jest. Suites that need a browser or a server are skipped without one, and said so;
// JESTRIL_REQUIRE=browser,servers makes them needed.
import { build, install, program, run } from './setup.mjs';

install();
build();
run('npm', ['run', '--silent', 'build', '--workspaces', '--if-present']);
run('node', ['--experimental-vm-modules', '--no-warnings=ExperimentalWarning', program('jest/bin/jest.js'), ...process.argv.slice(2)]);
