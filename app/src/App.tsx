import { CssBaseline, ThemeProvider } from '@mui/material';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { useMemo } from 'react';
import { later } from './later.tsx';
import { BrowserRouter, Route, Routes } from 'react-router';
import { useNoticesWanted } from './notices/snackbars.ts';
import { ErrorBoundary } from './routes/ErrorBoundary.tsx';
import { ErrorPage } from './routes/ErrorPage.tsx';
import { JobsPage } from './routes/JobsPage.tsx';
import { usePreferences } from './store/preferences.ts';
import { makeTheme } from './theme/theme.ts';

/** Kept apart from the page of jobs, which does not need it. */
export const BenchPage = later(() => import('./routes/BenchPage.tsx'));
const BatchesPage = later(() => import('./routes/BatchesPage.tsx'));
const GuidePage = later(() => import('./routes/GuidePage.tsx'));
const Notices = later(() => import('./notices/Notices.tsx'));

const queries = new QueryClient({ defaultOptions: { queries: { retry: 1, staleTime: 60_000 } } });

export function App() {
  const mode = usePreferences((s) => s.mode);
  const notices = useNoticesWanted((s) => s.wanted);
  const theme = useMemo(() => makeTheme(mode), [mode]);
  return (
    <ThemeProvider theme={theme}>
      <CssBaseline />
      <QueryClientProvider client={queries}>
        <BrowserRouter>
          <ErrorBoundary>
            <Routes>
              <Route path="/" element={<JobsPage />} />
              <Route path="/bench/:jobId" element={<BenchPage />} />
              <Route path="/batches/:batchId?" element={<BatchesPage />} />
              <Route path="/guide" element={<GuidePage />} />
              <Route path="*" element={<ErrorPage />} />
            </Routes>
          </ErrorBoundary>
        </BrowserRouter>
        {notices && <Notices />}
      </QueryClientProvider>
    </ThemeProvider>
  );
}
