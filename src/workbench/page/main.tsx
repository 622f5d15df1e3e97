import { createRoot } from 'react-dom/client';
import { App } from './app.tsx';
import './style.css';
import './controls.css';
import './submission/sheet.css';
import './views/verdict.css';
import './views/graph.css';
import './views/what-if.css';
import './views/cases.css';
import './views/import.css';
import './narrow.css';

createRoot(document.getElementById('workbench') as HTMLElement).render(<App />);
