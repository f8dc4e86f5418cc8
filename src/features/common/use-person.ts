'use client';

import { useEffect, useState } from 'react';
import type { Role } from '@/core/access/rights';

/** Who has signed in. */
export interface Person {
  name: string;
  role: Role;
}

/** Who has signed in with this browser; undefined where nobody has to. The server writes it into the page. */
export function usePerson(): Person | undefined {
  const [person, setPerson] = useState<Person>();
  useEffect(() => {
    const { person: name, role } = document.documentElement.dataset;
    if (name) setPerson({ name, role: role as Role });
  }, []);
  return person;
}
