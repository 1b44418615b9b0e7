import type { EnqueueSnackbar, SnackbarKey } from 'notistack';
import { create } from 'zustand';

interface Board {
  enqueueSnackbar: EnqueueSnackbar;
  closeSnackbar: (key?: SnackbarKey) => void;
}

let hand: (board: Board) => void = () => {};
const board = new Promise<Board>((resolve) => (hand = resolve));

/** Whether the notices are asked for: they are loaded with the first one. */
export const useNoticesWanted = create(() => ({ wanted: false }));

/** The notices, as soon as they are there. */
export function snackbars(): Promise<Board> {
  useNoticesWanted.setState({ wanted: true });
  return board;
}

/** They are there. */
export const handSnackbars = (provider: Board | null) => {
  if (provider) hand(provider);
};
