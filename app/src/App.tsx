import { CssBaseline, ThemeProvider } from '@mui/material';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { SnackbarProvider } from 'notistack';
import { lazy, Suspense, useMemo } from 'react';
import { createBrowserRouter, RouterProvider } from 'react-router';
import { ErrorPage } from './routes/ErrorPage.tsx';
import { JobsPage } from './routes/JobsPage.tsx';
import { usePreferences } from './store/preferences.ts';
import { makeTheme } from './theme/theme.ts';

const BenchPage = lazy(() => import('./routes/BenchPage.tsx'));

const router = createBrowserRouter([
  { path: '/', element: <JobsPage />, errorElement: <ErrorPage /> },
  {
    path: '/bench/:jobId',
    element: (
      <Suspense fallback={null}>
        <BenchPage />
      </Suspense>
    ),
    errorElement: <ErrorPage />,
  },
  { path: '*', element: <ErrorPage /> },
]);

const queries = new QueryClient({ defaultOptions: { queries: { retry: 1, staleTime: 60_000 } } });

export function App() {
  const mode = usePreferences((s) => s.mode);
  const theme = useMemo(() => makeTheme(mode), [mode]);
  return (
    <ThemeProvider theme={theme}>
      <CssBaseline />
      <QueryClientProvider client={queries}>
        <SnackbarProvider maxSnack={3} anchorOrigin={{ vertical: 'bottom', horizontal: 'center' }} autoHideDuration={4500} style={{ marginBottom: 34 }}>
          <RouterProvider router={router} />
        </SnackbarProvider>
      </QueryClientProvider>
    </ThemeProvider>
  );
}
