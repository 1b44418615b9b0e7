import type { Jig } from '@jig-peel/core';
import { NumberField } from '../../../fields/NumberField.tsx';
import { sixFigures } from '../../../fields/NumberRow.tsx';
import { Toggle } from '../../../fields/Toggle.tsx';
import { change } from '../../jigs.ts';

/** Numbers that only some kinds of jig have. @param was the jig as it was when it was taken in hand */
export function JigForm({ jig, was }: { jig: Jig; was: Jig }) {
  return (
    <>
      {(jig.kind === 'cylindrical' || jig.kind === 'spherical') && (
        <NumberField
          label="Start line turned by"
          unit="°"
          value={sixFigures(jig.start)}
          old={sixFigures(was.start)}
          min={-360}
          max={360}
          step={15}
          onChange={(start) => change({ start }, 'turned the start line of')}
        />
      )}
      {jig.kind === 'cylindrical' && (
        <>
          <Toggle label="Flat lids at the ends" checked={jig.lids} onChange={(lids) => change({ lids }, 'changed the lids of')} />
          {jig.lids && (
            <NumberField
              label="Lids: facing up to"
              unit="°"
              value={jig.lidAngle}
              old={was.lidAngle}
              min={0}
              max={90}
              step={5}
              onChange={(lidAngle) => change({ lidAngle }, 'changed the lids of')}
            />
          )}
        </>
      )}
      {jig.kind === 'flat-regions' && (
        <NumberField
          label="One region: folds up to"
          unit="°"
          value={jig.flatAngle}
          old={was.flatAngle}
          min={0}
          max={90}
          step={1}
          onChange={(flatAngle) => change({ flatAngle }, 'changed the regions of')}
        />
      )}
      {jig.kind === 'box' && (
        <NumberField
          label="Patches below this go with neighbours"
          unit="%"
          value={sixFigures(jig.group * 100)}
          old={sixFigures(was.group * 100)}
          min={0}
          max={50}
          step={1}
          onChange={(share) => change({ group: share / 100 }, 'grouped the patches of')}
        />
      )}
    </>
  );
}
