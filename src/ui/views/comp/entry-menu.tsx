'use client';

import { Ellipsis } from 'lucide-react';
import { useState } from 'react';
import type { Entry, Path } from '@/core/comp';
import { Menu, MenuItem, MenuLine } from '../../parts/menu';
import { NameDialog } from '../../parts/name-dialog';
import { duplicate, nest, put, remove, step, unnest } from './actions';
import { entryName } from './words';

/** What can be done with an entry. */
export function EntryMenu({ entry, path, name, isOnly }: { entry: Entry; path: Path; name: string; isOnly: boolean }) {
  const [naming, setNaming] = useState(false);
  return (
    <>
      <Menu
        align="end"
        trigger={
          <button type="button" aria-label={`menu of ${name}`} className="mt-[2px] text-dim hover:text-ink">
            <Ellipsis size={14} aria-hidden="true" />
          </button>
        }
      >
        <MenuItem onSelect={() => setNaming(true)}>Rename</MenuItem>
        <MenuItem onSelect={() => duplicate(name, path)}>Duplicate</MenuItem>
        <MenuItem disabled={isOnly} onSelect={() => step(name, path, true)}>
          Up
        </MenuItem>
        <MenuItem disabled={isOnly} onSelect={() => step(name, path, false)}>
          Down
        </MenuItem>
        <MenuLine />
        <MenuItem onSelect={() => nest(path)}>This and all below as one layer</MenuItem>
        {entry.kind === 'nest' && <MenuItem onSelect={() => unnest(path)}>Take the nest apart</MenuItem>}
        {entry.mask !== null && (
          <MenuItem onSelect={() => put(`${name} everywhere`, [...path, 'mask'], null, 1, false)}>
            Everywhere, without its mask
          </MenuItem>
        )}
        <MenuLine />
        <MenuItem onSelect={() => remove(name, path)}>Take away</MenuItem>
      </Menu>
      {naming && (
        <NameDialog
          title="Rename"
          label="Name"
          action="Rename"
          initial={entryName(entry)}
          most={120}
          onClose={() => setNaming(false)}
          onName={(to) => {
            put(`${name} is ${to}`, [...path, 'name'], to, 1, false);
            setNaming(false);
          }}
        />
      )}
    </>
  );
}
