import { createBrowserRouter, Navigate } from 'react-router';
import { DatasetsPage } from '../datasets/datasets-page';
import { SignInPage } from '../people/sign-in-page';
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
        lazy: async () => ({ Component: (await import('./dataset-frame')).DatasetFrame }),
        children: [
          { index: true, element: <Navigate to="bench" replace /> },
          { path: 'bench', lazy: async () => ({ Component: (await import('../bench/bench-page')).BenchPage }) },
          { path: 'fields', lazy: async () => ({ Component: (await import('../fields/fields-page')).FieldsPage }) },
          { path: 'proof', lazy: async () => ({ Component: (await import('../proof/proof-page')).ProofPage }) },
        ],
      },
      { path: '/sources', lazy: async () => ({ Component: (await import('../sources/sources-page')).SourcesPage }) },
      { path: '/sources/:id', lazy: async () => ({ Component: (await import('../sources/source-page')).SourcePage }) },
      { path: '/texts', lazy: async () => ({ Component: (await import('../kept-texts/kept-texts-page')).KeptTextsPage }) },
      { path: '/texts/:id', lazy: async () => ({ Component: (await import('../kept-texts/kept-text-page')).KeptTextPage }) },
      { path: '/runs', lazy: async () => ({ Component: (await import('../runs/runs-page')).RunsPage }) },
      { path: '/links', lazy: async () => ({ Component: (await import('../links/links-page')).LinksPage }) },
      { path: '/limits', lazy: async () => ({ Component: (await import('../limits/limits-page')).LimitsPage }) },
      { path: '*', element: <NotFound /> },
    ],
  },
]);
