import '@fontsource-variable/bricolage-grotesque';
import '@fontsource-variable/figtree';
import '@fontsource-variable/spline-sans-mono';
import './styles.css';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import { createBrowserRouter, Navigate, RouterProvider } from 'react-router';
import { Toaster } from 'sonner';
import { BenchPage } from './bench/bench-page.tsx';
import { FootagePage } from './footage/footage-page.tsx';
import { ProjectsPage } from './projects/projects-page.tsx';
import { RendersPage } from './renders/renders-page.tsx';
import { ProjectShell } from './shell/project-shell.tsx';

const theme = localStorage.getItem('theme') ?? (matchMedia('(prefers-color-scheme: dark)').matches ? 'night' : 'day');
document.documentElement.dataset['theme'] = theme;

const router = createBrowserRouter([
  { path: '/', element: <ProjectsPage /> },
  {
    path: '/projects/:projectId',
    element: <ProjectShell />,
    children: [
      { index: true, element: <Navigate to="bench" replace /> },
      { path: 'footage', element: <FootagePage /> },
      { path: 'bench', element: <BenchPage /> },
      { path: 'renders', element: <RendersPage /> },
    ],
  },
  { path: '*', element: <Navigate to="/" replace /> },
]);
const queries = new QueryClient({ defaultOptions: { queries: { refetchOnWindowFocus: false, retry: 1 } } });

createRoot(document.getElementById('root')!).render(
  <StrictMode>
    <QueryClientProvider client={queries}>
      <RouterProvider router={router} />
      <Toaster position="bottom-left" toastOptions={{ className: 'font-sans' }} />
    </QueryClientProvider>
  </StrictMode>,
);
