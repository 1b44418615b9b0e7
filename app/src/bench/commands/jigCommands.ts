import { operationFacts } from 'virtual:operation-facts';
import { jigActions } from '../jigActions.ts';
import { jigInHand, placeNow, useJigs } from '../jigs.ts';
import { activePart, bench, noJob, type Command } from './command.ts';

/** Something to do with the jig in hand. */
const ofJigInHand = (id: string, label: string, words?: string, changes: Command['changes'] = operationFacts.setJigState.changes): Command => {
  const found = () => {
    const row = jigInHand();
    return row ? jigActions(row).find((one) => one.id === id) : undefined;
  };
  return {
    id: `jig-${id}`,
    label: `Jig in hand: ${label}`,
    words,
    changes,
    run: () => found()?.act(),
    blocked: () => noJob() ?? (jigInHand() ? (found() ? null : 'the jig in hand is not in a state for this') : 'take a jig in hand first, at the station Jigs'),
  };
};

const placing = (way: 'draw' | 'surface', label: string): Command => ({
  id: `jig-${way}`,
  label,
  words: 'projection place',
  changes: ['bench'],
  run: () => {
    bench().goTo('jigs');
    useJigs.setState({ placing: way });
  },
  blocked: noJob,
});

/** The picture of the part at work as one frame in space for the parts that were traced from it. */
const standing = (id: string, fit: boolean): Command => ({
  id,
  label: fit ? 'Find where the picture was traced' : operationFacts.standPicture.label,
  words: operationFacts.standPicture.words,
  changes: ['bench', ...operationFacts.standPicture.changes],
  run: async () => {
    bench().goTo('jigs');
    await (await import('../pictureFrame.ts')).standPicture(fit);
  },
  blocked: () => noJob() ?? (activePart()?.imageId ? null : 'the part at work shows no picture yet'),
});

export const jigCommands: Command[] = [
  {
    id: 'jig-place',
    label: 'Place a jig on the selected faces',
    words: 'projection planar cylindrical spherical box',
    changes: ['bench', ...operationFacts.addJigs.changes],
    run: () => {
      bench().goTo('jigs');
      return placeNow();
    },
    blocked: noJob,
  },
  placing('draw', 'Draw a jig over the model'),
  placing('surface', 'Place a jig on the surface'),
  standing('picture-stand', false),
  standing('picture-find', true),
  ofJigInHand('write', 'write to UVs', 'bake freeze projection'),
  ofJigInHand('off', 'switch off'),
  ofJigInHand('live', 'make live'),
  ofJigInHand('give', 'give it the selected faces'),
  ofJigInHand('take', 'take the selected faces from it'),
  ofJigInHand('cover', 'cover its poles and smears', 'hide pinch triplanar', operationFacts.coverSmears.changes),
  ofJigInHand('copy', 'copy to the other parts'),
  ofJigInHand('copy-groups', 'copy to face groups of the same name'),
  ofJigInHand('remove', 'remove, UVs stay', 'delete'),
];
