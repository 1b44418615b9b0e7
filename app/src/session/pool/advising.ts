import { adviceSteps, type Advice } from '@jig-peel/core/jigs/advise';
import { jigPicture } from '@jig-peel/core/jigs/picture';
import { advicePace } from './advicePace.ts';
import type { Tasks, Tools } from './tasks.ts';

export async function advise({ faces }: Tasks['advise']['input'], { mesh }: Tools): Promise<Advice[] | null> {
  const mine = ++advicePace.asked;
  const steps = adviceSteps(mesh(), faces);
  for (;;) {
    const { done, value } = steps.next();
    if (done) return value;
    // newer questions come in between; while a hand moves a jig it has the machine for itself
    do await new Promise((next) => setTimeout(next, Math.min(200, Math.max(0, advicePace.holdUntil - Date.now()))));
    while (mine === advicePace.asked && Date.now() < advicePace.holdUntil);
    if (mine !== advicePace.asked) return null;
  }
}

/** What each of them makes of the faces, small. */
export const picture = ({ list }: Tasks['picture']['input'], { mesh }: Tools): Tasks['picture']['output'] => list.map(({ parts }) => jigPicture(mesh(), parts));
