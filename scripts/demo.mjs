// npm run demo: a short tour of three judged bookings, then the booking desk until it is stopped.
//   npm run demo -- --tour        only the tour
//   npm run demo -- --port 4311   the desk at another port
import { parseArgs } from 'node:util';
import { build, install, program, run } from './setup.mjs';

const { tour, port } = readArguments();
install();
build();
run('node', [program('jiti/lib/jiti-cli.mjs'), 'examples/marina/tour.ts']);
if (!tour) {
  run('npm', ['run', '--silent', 'build', '--workspace', 'examples/booking-desk']);
  run('node', ['examples/booking-desk/dist/server/main.js'], { env: { ...process.env, PORT: port } });
}

function readArguments() {
  try {
    const { values } = parseArgs({ options: { tour: { type: 'boolean' }, port: { type: 'string', default: process.env.PORT ?? '4310' } } });
    if (!/^[1-9]\d{0,4}$/.test(values.port) || Number(values.port) > 65_535)
      throw new Error(`--port ${values.port} is not a port; give a number from 1 to 65535.`);
    return values;
  } catch (error) {
    console.error(`${error.message.split('\n')[0]} Known: --tour, --port <number>.`);
    process.exit(1);
  }
}
