import { islandLetter, type GoOnWay, type OperationName, type ParamsOf } from '@jig-peel/core';
import type { SeamRemedies } from '@jig-peel/core/ops/seamRemediesWork';

export interface Remedy {
  label: string;
  /** What it would bring; why it cannot be had. */
  brings: string;
  /** Whether it helps, can be had but makes nothing better here, or cannot be had. */
  use: 'helps' | 'idle' | 'none';
  take(): void;
}

const px = (offset: number) => `${offset.toFixed(offset < 10 ? 1 : 0)} px`;
const apart = (colour: number) => colour.toFixed(colour < 10 ? 1 : 0);
const energyWords = (energy: number) => `energy ${energy.toFixed(2)}`;

export interface Told {
  edges: number[];
  letters: string;
  way: GoOnWay;
  length(units: number): string;
  /** @param writeLive live jigs may be written for it */
  run<N extends OperationName>(name: N, params: ParamsOf<N>, writeLive?: boolean): void;
}

/** Colours nearer than this look alike, of 255; common practice, no source. */
const leastColour = 0.5;

/** Whether a figure becomes better by more than a thousandth. */
const better = (before: number, after: number, least = 0) => after < before * (1 - 1e-3) - least;

/** What helps first, then what could be had but makes nothing better here, then what cannot be had; else in the order in which it is told. */
export function remediesOf({ jumping, goOn, join, move, cover }: SeamRemedies, { edges, letters, way, length, run }: Told): Remedy[] {
  const worth = (one: object, helps: boolean): Remedy['use'] => ('why' in one ? 'none' : helps ? 'helps' : 'idle');
  const all = (then: number) => `seams that jump: ${length(jumping)} → ${length(then)}`;
  const list: Remedy[] = [
    ...goOn.map(({ island, from, ...one }) => ({
      label: `${islandLetter(island)} goes on from ${islandLetter(from)}`,
      brings: 'why' in one ? one.why : `${px(one.left)} left here; ${all(one.jumping)}`,
      use: worth(one, 'jumping' in one && better(jumping, one.jumping)),
      take: () => run('goOn', { island, from, way }),
    })),
    {
      label: goOn.length > 0 ? `Join ${letters}` : 'Make it whole',
      brings: 'why' in join ? join.why : `no seam there; ${energyWords(join.energy)} (4: no stretch)`,
      use: worth(join, true),
      take: () => run('uncut', { edges }, true),
    },
    {
      label: 'Move it out of sight',
      brings: 'why' in move ? move.why : `seams in plain sight: ${length(move.before)} → ${length(move.after)}; ${energyWords(move.energy)}`,
      use: worth(move, 'after' in move && better(move.before, move.after)),
      take: () => run('moveSeam', { edges }, true),
    },
    ...cover.map(({ how, ...one }) => ({
      label: how === 'along' ? 'Fade over it, from three sides' : `${letters} from three sides`,
      brings:
        'why' in one
          ? one.why
          : `colours here ${apart(one.before)} → ${apart(one.after)} of 255 apart; over all seams ${apart(one.allBefore)} → ${apart(one.allAfter)}`,
      use: worth(one, 'after' in one && better(one.before, one.after, leastColour)),
      take: () => run('coverSeam', { edges, how }, true),
    })),
  ];
  const order = ['helps', 'idle', 'none'];
  return list
    .map((one) => (one.use === 'idle' ? { ...one, brings: `makes nothing better here: ${one.brings}` } : one))
    .sort((a, b) => order.indexOf(a.use) - order.indexOf(b.use));
}
