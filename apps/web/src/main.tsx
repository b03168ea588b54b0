import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import { Provider } from 'react-redux';
import { RouterProvider } from 'react-router/dom';
import { router } from './app/routes';
import { store } from './app/store';
import { claimTab } from './app/tab';
import './styles.css';

const root = document.getElementById('root');
if (!root) throw new Error('the page has no root element');
await claimTab();
createRoot(root).render(
  <StrictMode>
    <Provider store={store}>
      <RouterProvider router={router} />
    </Provider>
  </StrictMode>,
);
