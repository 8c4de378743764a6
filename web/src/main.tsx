import '@fontsource-variable/source-serif-4/index.css';
import '@fontsource-variable/source-sans-3/index.css';
import '@fontsource-variable/jetbrains-mono/index.css';
import './frame/styles.css';
import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import { App } from './frame/App.tsx';

createRoot(document.getElementById('root') as HTMLElement).render(<StrictMode><App /></StrictMode>);
