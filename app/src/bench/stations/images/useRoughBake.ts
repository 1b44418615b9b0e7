import { useEffect, useRef, useState } from 'react';
import type { ParamsOf } from '@jig-peel/core';
import { coreApi } from '../../../worker/client.ts';

/** A small picture of what is being baked, there within a fraction of a second, shown until the whole one is done. */
export function useRoughBake() {
  const [picture, setPicture] = useState<string | null>(null);
  /** Counts what was asked and ended: an answer that comes too late is not shown. */
  const turn = useRef(0);
  useEffect(() => () => void (turn.current = -1), []);
  useEffect(() => {
    if (picture !== null) return () => URL.revokeObjectURL(picture);
  }, [picture]);
  return {
    picture,
    async show(asked: ParamsOf<'bake'>): Promise<void> {
      const mine = ++turn.current;
      // what goes wrong here is told by the whole bake
      const outcome = await coreApi()
        .roughBake(asked)
        .catch(() => null);
      if (turn.current === mine && outcome?.ok) setPicture(URL.createObjectURL(new Blob([outcome.report as Uint8Array<ArrayBuffer>], { type: 'image/png' })));
    },
    end(): void {
      turn.current++;
      setPicture(null);
    },
  };
}
