import { useEffect, useState } from 'react';
import { coreApi } from '../../../worker/client.ts';

/** An image of the job as an address for the page, once it is read; why it cannot be, in words. */
export function useImageUrl(id: string): { url: string; trouble: string } {
  const [found, setFound] = useState({ id, url: '', trouble: '' });
  useEffect(() => {
    let made = '';
    let current = true;
    void coreApi()
      .image(id)
      .then((image) => {
        if (!current) return;
        if (!image) throw new Error('The image is not in the job any more.');
        made = URL.createObjectURL(new Blob([image.bytes as Uint8Array<ArrayBuffer>], { type: image.type }));
        setFound({ id, url: made, trouble: '' });
      })
      .catch((error: Error) => current && setFound({ id, url: '', trouble: error.message }));
    return () => {
      current = false;
      if (made) URL.revokeObjectURL(made);
    };
  }, [id]);
  return found.id === id ? found : { url: '', trouble: '' };
}
