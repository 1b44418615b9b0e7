import { CssBaseline, GlobalStyles, styled, ThemeProvider } from '@mui/material';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { MaterialDesignContent, SnackbarProvider } from 'notistack';
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

/** Notices in the app's own colours, which are checked for contrast. */
const NoticeContent = styled(MaterialDesignContent)(({ theme }) => ({
  '&.notistack-MuiContent': { fontFamily: theme.typography.fontFamily, fontSize: 13, padding: '4px 14px', flexWrap: 'nowrap', maxWidth: 400 },
  '&.notistack-MuiContent-default': { backgroundColor: theme.palette.text.primary, color: theme.palette.background.paper },
  '&.notistack-MuiContent-success': { backgroundColor: theme.palette.primary.main, color: theme.palette.primary.contrastText },
  '&.notistack-MuiContent-warning': { backgroundColor: theme.palette.warning.main, color: theme.palette.background.paper },
  '&.notistack-MuiContent-error': { backgroundColor: theme.palette.error.main, color: theme.palette.background.paper },
}));
const contents = { default: NoticeContent, success: NoticeContent, warning: NoticeContent, error: NoticeContent };

const queries = new QueryClient({ defaultOptions: { queries: { retry: 1, staleTime: 60_000 } } });

export function App() {
  const mode = usePreferences((s) => s.mode);
  const theme = useMemo(() => makeTheme(mode), [mode]);
  return (
    <ThemeProvider theme={theme}>
      <CssBaseline />
      {/* notices stand over the sheet for a moment: what is under them can still be taken, drawn and brushed; only their buttons take the pointer */}
      <GlobalStyles
        styles={{
          '.notistack-SnackbarContainer *': { pointerEvents: 'none !important' },
          '.notistack-SnackbarContainer button': { pointerEvents: 'auto !important' },
        }}
      />
      <QueryClientProvider client={queries}>
        <SnackbarProvider
          maxSnack={3}
          // over the sheet's empty corner, above the figures of the selection: clear of every control
          anchorOrigin={{ vertical: 'bottom', horizontal: 'right' }}
          Components={contents}
          autoHideDuration={4500}
          style={{ marginBottom: 118, maxWidth: 400 }}
        >
          <RouterProvider router={router} />
        </SnackbarProvider>
      </QueryClientProvider>
    </ThemeProvider>
  );
}
