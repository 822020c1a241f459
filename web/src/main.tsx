import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import { Provider } from 'react-redux';
import { RouterProvider } from 'react-router';
import { Toaster } from 'sonner';
import { router } from './app/router.tsx';
import { store } from './app/store.ts';
import './index.css';

const root = document.getElementById('root');
if (root)
  createRoot(root).render(
    <StrictMode>
      <Provider store={store}>
        <RouterProvider router={router} />
        <Toaster
          position="bottom-left"
          style={{ fontFamily: 'inherit' }}
          toastOptions={{ style: { borderRadius: 11 } }}
        />
      </Provider>
    </StrictMode>,
  );
