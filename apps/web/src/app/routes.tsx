import { createBrowserRouter, Navigate } from 'react-router';
import { DatasetsPage } from '../datasets/datasets-page';
import { LimitsPage } from '../limits/limits-page';
import { SignInPage } from '../people/sign-in-page';
import { RunsPage } from '../runs/runs-page';
import { SourcesPage } from '../sources/sources-page';
import { DatasetFrame } from './dataset-frame';
import { Frame, NotFound } from './frame';

/** Step, tab and parameter values are in the address; so every view can be linked to. */
export const router = createBrowserRouter([
  { path: '/sign-in', element: <SignInPage /> },
  {
    element: <Frame />,
    errorElement: <NotFound broken />,
    children: [
      { path: '/', element: <Navigate to="/datasets" replace /> },
      { path: '/datasets', element: <DatasetsPage /> },
      {
        path: '/datasets/:id',
        element: <DatasetFrame />,
        children: [
          { index: true, element: <Navigate to="bench" replace /> },
          { path: 'bench', lazy: async () => ({ Component: (await import('../bench/bench-page')).BenchPage }) },
          { path: 'fields', lazy: async () => ({ Component: (await import('../fields/fields-page')).FieldsPage }) },
          { path: 'proof', lazy: async () => ({ Component: (await import('../proof/proof-page')).ProofPage }) },
        ],
      },
      { path: '/sources', element: <SourcesPage /> },
      { path: '/sources/:id', lazy: async () => ({ Component: (await import('../sources/source-page')).SourcePage }) },
      { path: '/runs', element: <RunsPage /> },
      { path: '/limits', element: <LimitsPage /> },
      { path: '*', element: <NotFound /> },
    ],
  },
]);
