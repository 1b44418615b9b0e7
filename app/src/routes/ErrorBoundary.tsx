import { Component, type ReactNode } from 'react';
import { ErrorPage } from './ErrorPage.tsx';

/** A fault anywhere in the page shows the error page in its place; leaving that loads the app again. */
export class ErrorBoundary extends Component<{ children: ReactNode }, { faulty: boolean }> {
  override state = { faulty: false };

  static getDerivedStateFromError() {
    return { faulty: true };
  }

  override componentDidCatch(error: unknown) {
    // what it was is for those who can read it
    console.error(error);
  }

  override render() {
    return this.state.faulty ? <ErrorPage fault /> : this.props.children;
  }
}
