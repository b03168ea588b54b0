import { createBrowserRouter, Navigate } from 'react-router';
import { BenchPage } from '../bench/bench-page';
import { DatasetsPage } from '../datasets/datasets-page';
import { LimitsPage } from '../limits/limits-page';
import { SignInPage } from '../people/sign-in-page';
import { ProofPage } from '../proof/proof-page';
import { RunsPage } from '../runs/runs-page';
import { SourcePage } from '../sources/source-page';
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
          { path: 'bench', element: <BenchPage /> },
          { path: 'proof', element: <ProofPage /> },
        ],
      },
      { path: '/sources', element: <SourcesPage /> },
      { path: '/sources/:id', element: <SourcePage /> },
      { path: '/runs', element: <RunsPage /> },
      { path: '/limits', element: <LimitsPage /> },
      { path: '*', element: <NotFound /> },
    ],
  },
]);
