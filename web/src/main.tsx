import '@fontsource-variable/source-serif-4/index.css';
import '@fontsource-variable/source-sans-3/index.css';
import '@fontsource-variable/jetbrains-mono/index.css';
import './app/base.css';
import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import { App } from './app/App.tsx';
import { noteUnfetched } from './ui/problems.ts';
import { ignoreStrayFiles } from './ui/strayFiles.ts';

ignoreStrayFiles();
noteUnfetched();

createRoot(document.getElementById('root') as HTMLElement).render(
  <StrictMode>
    <App />
  </StrictMode>,
);
