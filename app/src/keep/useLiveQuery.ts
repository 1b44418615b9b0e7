import { liveQuery } from 'dexie';
import { useEffect, useState } from 'react';

/** What a question to the database finds, again after each change of what it read; undefined until then. @param query the same function at each call */
export function useLiveQuery<T>(query: () => Promise<T>): T | undefined {
  const [found, setFound] = useState<T>();
  useEffect(() => {
    const subscription = liveQuery(query).subscribe((value) => setFound(() => value));
    return () => subscription.unsubscribe();
  }, [query]);
  return found;
}
