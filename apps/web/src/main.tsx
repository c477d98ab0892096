import '@fontsource-variable/bricolage-grotesque';
import '@fontsource-variable/figtree';
import '@fontsource-variable/spline-sans-mono';
import './styles.css';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { lazy, StrictMode, Suspense } from 'react';
import { createRoot } from 'react-dom/client';
import { createBrowserRouter, Navigate, RouterProvider } from 'react-router';
import { ProjectShell } from './shell/project-shell.tsx';

const theme = localStorage.getItem('theme') ?? (matchMedia('(prefers-color-scheme: dark)').matches ? 'night' : 'day');
document.documentElement.dataset['theme'] = theme;

/** Each place is loaded when it is opened. */
const router = createBrowserRouter([
  { path: '/', lazy: async () => ({ Component: (await import('./projects/projects-page.tsx')).ProjectsPage }) },
  {
    path: '/projects/:projectId',
    element: <ProjectShell />,
    children: [
      { index: true, element: <Navigate to="bench" replace /> },
      {
        path: 'footage',
        lazy: async () => ({ Component: (await import('./footage/footage-page.tsx')).FootagePage }),
      },
      { path: 'bench', lazy: async () => ({ Component: (await import('./bench/bench-page.tsx')).BenchPage }) },
      {
        path: 'renders',
        lazy: async () => ({ Component: (await import('./renders/renders-page.tsx')).RendersPage }),
      },
    ],
  },
  { path: '*', element: <Navigate to="/" replace /> },
]);
/** After the page itself. */
const Notices = lazy(async () => ({ default: (await import('./shell/notices.tsx')).Notices }));
const Tips = lazy(async () => ({ default: (await import('./ui/tips.tsx')).Tips }));
const queries = new QueryClient({ defaultOptions: { queries: { refetchOnWindowFocus: false, retry: 1 } } });

createRoot(document.getElementById('root')!).render(
  <StrictMode>
    <QueryClientProvider client={queries}>
      <RouterProvider router={router} />
      <Suspense>
        <Notices />
        <Tips />
      </Suspense>
    </QueryClientProvider>
  </StrictMode>,
);
