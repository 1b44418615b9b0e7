import { useBench } from '../store/bench.ts';
import type { OperationName, ParamsOf } from '@jig-peel/core';
import type { JigRow, Outcome } from '../session/messages.ts';
import { run } from '../worker/client.ts';

/** What can be done with a jig as a whole, for its menu and the finder. */
export interface JigAction {
  id: string;
  label: string;
  /** Done, and said. */
  act(): Promise<Outcome>;
}

/** Every action, with the ones that make no sense for the jig now left out. */
export function jigActions(jig: JigRow): JigAction[] {
  const parts = useBench.getState().summary?.parts ?? [];
  const others = parts.filter((part) => !jig.drives.some((drive) => drive.part === part.id));
  const act =
    <N extends OperationName>(name: N, params: ParamsOf<N>) =>
    (): Promise<Outcome> =>
      run(name, params, true);
  const state = (to: ParamsOf<'setJigState'>['to']) => ({ act: act('setJigState', { ids: [jig.id], to }) });
  const copies = jig.drives.length > 0 && others.length > 0;
  return [
    jig.state === 'live' && { id: 'write', label: 'Write to UVs', ...state('written') },
    jig.state === 'live' && { id: 'off', label: 'Switch off', ...state('off') },
    jig.state !== 'live' && { id: 'live', label: 'Make live', ...state('live') },
    { id: 'give', label: 'Give it the selected faces', act: act('driveFaces', { id: jig.id, faces: 'selected' }) },
    jig.drives.length > 0 && {
      id: 'take',
      label: 'Take the selected faces from it',
      act: act('driveFaces', { id: jig.id, faces: 'selected', take: true }),
    },
    jig.drives.length > 0 && { id: 'cover', label: 'Cover its poles and smears', act: act('coverSmears', { id: jig.id }) },
    copies && {
      id: 'copy',
      label: `Copy to the other parts (${others.length})`,
      act: act('copyJig', { id: jig.id, parts: others.map(({ id }) => id) }),
    },
    copies &&
      others.some((part) => part.groups.length > 0) && {
        id: 'copy-groups',
        label: 'Copy to face groups of the same name',
        act: act('copyJig', { id: jig.id, parts: others.map(({ id }) => id), by: 'group' }),
      },
    { id: 'remove', label: 'Remove, UVs stay', ...state('removed') },
  ].filter((item) => item !== false);
}
