import { Dialog, DialogContent, DialogTitle } from '@mui/material';
import { operationFacts } from 'virtual:operation-facts';
import type { OperationName, ParamsOf } from '@jig-peel/core';
import { useBench } from '../store/bench.ts';
import { run } from '../worker/client.ts';
import { ParamsForm } from './ParamsForm.tsx';

const close = () => {
  useBench.getState().set({ dialog: null, form: null });
  setTimeout(() => document.getElementById('views')?.focus({ preventScroll: true }), 0);
};

/** An operation with numbers of one's own: a form made from its schema. What is left empty is as the job's settings or the operation have it. */
export default function OperationForm() {
  const name = useBench((s) => (s.dialog === 'form' ? s.form : null));
  return name ? <FormOf key={name} name={name} /> : null;
}

function FormOf({ name }: { name: OperationName }) {
  const { label, fields } = operationFacts[name];
  return (
    <Dialog open onClose={close} fullWidth maxWidth="xs" aria-labelledby="operation-form">
      <DialogTitle id="operation-form" sx={{ pb: 1 }}>
        {label}
      </DialogTitle>
      <DialogContent>
        <ParamsForm
          fields={fields}
          label={label}
          cancel={close}
          send={(params) => {
            // closed before it runs: its bar with the cancel, and what it may ask, stand on the bench
            close();
            void run(name, params as ParamsOf<typeof name>, true);
          }}
        />
      </DialogContent>
    </Dialog>
  );
}
