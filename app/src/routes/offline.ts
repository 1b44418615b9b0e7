import { useEffect, useState } from 'react';

type OfflineState = 'none' | 'being kept' | 'ready' | 'newer';

/** Ms after which the page keeps the app: what the person does first goes first. */
const keepAfter = 4000;

/** Keeps the app in this browser, and says how far that is; without https or localhost a browser keeps none. */
export function useOffline(): { state: OfflineState; takeNewer(): void } {
  const [state, setState] = useState<OfflineState>('none');
  const [waiting, setWaiting] = useState<ServiceWorker | null>(null);
  useEffect(() => {
    if (!import.meta.env.PROD || !('serviceWorker' in navigator)) return;
    let isHere = true;
    const follow = (registration: ServiceWorkerRegistration) => {
      const look = () => {
        if (!isHere) return;
        if (registration.waiting && registration.active) {
          setWaiting(registration.waiting);
          setState('newer');
        } else setState(registration.active ? 'ready' : 'being kept');
      };
      const listen = (worker: ServiceWorker | null) => worker?.addEventListener('statechange', look);
      listen(registration.installing);
      registration.addEventListener('updatefound', () => listen(registration.installing));
      look();
    };
    const timer = setTimeout(() => {
      navigator.serviceWorker.register('/serviceWorker.js').then(
        (registration) => registration && follow(registration),
        () => {},
      );
    }, keepAfter);
    void navigator.serviceWorker.getRegistration().then((known) => known && follow(known));
    return () => {
      isHere = false;
      clearTimeout(timer);
    };
  }, []);
  const takeNewer = () => {
    navigator.serviceWorker.addEventListener('controllerchange', () => location.reload(), { once: true });
    waiting?.postMessage('take over');
  };
  return { state, takeNewer };
}
