import type { Jig } from '@jig-peel/core';
import { NumberRow } from '../../../fields/NumberRow.tsx';
import { Toggle } from '../../../fields/Toggle.tsx';
import type { JigRow } from '../../../session/messages.ts';
import { run } from '../../../worker/client.ts';
import { change } from '../../jigs.ts';
import { Section } from './Section.tsx';

/** A fortieth of the largest, rounded. */
const stepOf = (values: readonly number[]) => Number((Math.max(...values.map(Math.abs), 0.1) / 40).toPrecision(1));

/** Where a jig stands, how large it is, and what it moves with. @param was the jig as it was when it was taken in hand */
export function JigPlace({ row, was, units }: { row: JigRow; was: Jig; units: string }) {
  const { jig } = row;
  return (
    <Section title="Place">
      <NumberRow
        stacked
        labels={['Middle, x', 'Middle, y', 'Middle, z']}
        unit={units}
        values={jig.origin}
        step={stepOf(jig.origin)}
        old={was.origin}
        min={-1e6}
        max={1e6}
        onChange={(origin) => change({ origin }, 'moved')}
      />
      <NumberRow
        stacked
        labels={['Size, wide', 'Size, high', 'Size, deep']}
        unit={units}
        values={jig.size}
        step={stepOf(jig.size)}
        old={was.size}
        min={1e-6}
        max={1e6}
        onChange={(size) => change({ size }, 'sized')}
      />
      <Toggle
        label="Moves and grows with its part"
        checked={row.belongs === 'part'}
        onChange={(on) => void run('changeJig', { id: row.id, belongs: on ? 'part' : 'space' })}
      />
    </Section>
  );
}
