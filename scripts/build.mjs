// npm run build: the library, then the example applications.
import { build, install, run } from './setup.mjs';

install();
build();
run('npm', ['run', '--silent', 'build', '--workspaces', '--if-present']);
