import { Bench } from './bench.tsx';
import { useModule } from './use-module.ts';

export function App() {
  const { module, problem, isLoading } = useModule();
  if (!module) return <p className="hint">{problem ?? 'Loading the module …'}</p>;
  const isKnown = module.intakes.length > 0;
  const wait = isLoading ? 'Loading the module …' : 'As soon as the module loads, its intakes are here.';
  return (
    <>
      {problem && (
        <p className="banner" role="alert">
          {problem.replace(/[^.!?]$/, '$&.')} {isKnown && 'What is shown is of the load before.'}
        </p>
      )}
      {isKnown ? <Bench module={module} isLoading={isLoading} /> : <p className="hint">{wait}</p>}
    </>
  );
}
