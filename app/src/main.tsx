import '@fontsource-variable/hanken-grotesk';
import '@fontsource-variable/red-hat-mono';
import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import { matchPath } from 'react-router';
import { App, BenchPage } from './App.tsx';
import { beginLoad } from './worker/client.ts';

const jobId = matchPath('/bench/:jobId', location.pathname)?.params.jobId;
// the job is read while the page that shows it is fetched
if (jobId !== undefined) beginLoad(jobId);

void (jobId === undefined ? Promise.resolve() : BenchPage.load().catch(() => {})).then(() =>
  createRoot(document.getElementById('root')!).render(
    <StrictMode>
      <App />
    </StrictMode>,
  ),
);
