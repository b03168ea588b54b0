import { Tab, TabGroup, TabList, TabPanel, TabPanels } from '@headlessui/react';
import { useState } from 'react';
import { useNavigate, useParams } from 'react-router';
import type { SourceDto } from '../api';
import { api } from '../api';
import { failureOf } from '../api/problem';
import { Button } from '../ui/button';
import { ConfirmDialog } from '../ui/confirm-dialog';
import { clock } from '../ui/format';
import { FailureNotice } from '../ui/notice';
import { Waiting } from '../ui/waiting';
import { AccessTab } from './access-tab';
import { sourceKind } from './kinds';
import { ProceduresTab } from './procedures-tab';
import { SettingsForm } from './settings-form';
import { SourceMark } from './source-mark';
import { TablesTab } from './tables-tab';
import { TestLine } from './test-line';
import { useAddress } from '../ui/address';

const TAB =
  'border-b-2 border-transparent px-3 py-2 text-ink-soft data-selected:border-ember data-selected:font-medium data-selected:text-ink';

export function SourcePage() {
  const { id = '' } = useParams();
  const source = api.useSourcesOneQuery({ id });
  const [search, writeAddress] = useAddress();
  const me = api.usePeopleMeQuery().data;
  const steward = me?.role === 'steward';
  if (!source.data)
    return (
      <main className="p-4">
        {source.error ? <FailureNotice failure={failureOf(source.error)} /> : <Waiting what="Opening the source" />}
      </main>
    );
  const tabs = steward ? ['Tables', 'Procedures', 'Access'] : ['Tables', 'Procedures'];
  const at = Math.max(0, tabs.indexOf(search.get('tab') ?? 'Tables'));
  return (
    <main className="flex h-full flex-col">
      <SourceHeader source={source.data} steward={steward} />
      <TabGroup
        className="flex min-h-0 flex-1 flex-col"
        selectedIndex={at}
        onChange={(index) => writeAddress((parameters) => parameters.set('tab', tabs[index] ?? 'Tables'))}
      >
        <TabList className="flex border-b px-3">
          {tabs.map((tab) => (
            <Tab key={tab} className={TAB}>
              {tab}
            </Tab>
          ))}
        </TabList>
        <TabPanels className="min-h-0 flex-1">
          <TabPanel className="h-full" tabIndex={-1}>
            <TablesTab source={source.data} />
          </TabPanel>
          <TabPanel className="h-full" tabIndex={-1}>
            <ProceduresTab source={source.data} />
          </TabPanel>
          {steward && (
            <TabPanel tabIndex={-1}>
              <AccessTab source={source.data} />
            </TabPanel>
          )}
        </TabPanels>
      </TabGroup>
    </main>
  );
}

function SourceHeader({ source, steward }: { readonly source: SourceDto; readonly steward: boolean }) {
  const [test, testing] = api.useSourcesTestMutation();
  const [remove, removing] = api.useSourcesRemoveMutation();
  const [open, setOpen] = useState<'settings' | 'remove'>();
  const navigate = useNavigate();
  const { kind, settings } = source;
  return (
    <header className="space-y-2 border-b px-3 py-2">
      <div className="flex items-center gap-3">
        <SourceMark mark={source.mark} lane={0} />
        <h1 className="font-serif text-title">{source.name}</h1>
        {settings && <span className="text-ink-soft">{sourceKind(kind)?.description(settings)}</span>}
        <div className="ml-auto flex gap-2">
          <Button onClick={() => void test({ id: source.id })} disabled={testing.isLoading}>
            {testing.isLoading ? 'Testing …' : 'Test connection'}
          </Button>
          {steward && <Button onClick={() => setOpen(open === 'settings' ? undefined : 'settings')}>Settings</Button>}
          {steward && (
            <Button kind="danger" onClick={() => setOpen('remove')}>
              Remove
            </Button>
          )}
        </div>
      </div>
      {source.test && <TestLine answer={source.test} stale={source.test.stale} when={clock(source.test.at)} />}
      <FailureNotice failure={failureOf(testing.error) ?? failureOf(removing.error)} />
      {open === 'settings' && <SettingsForm source={source} onDone={() => setOpen(undefined)} onLeave={() => setOpen(undefined)} />}
      <ConfirmDialog
        open={open === 'remove'}
        title={`Remove ${source.name}?`}
        action="Remove the source"
        onClose={() => setOpen(undefined)}
        onConfirm={() => void remove({ id: source.id }).then((answer) => !answer.error && navigate('/sources'))}
      >
        Its connection and password are forgotten. Datasets that read it stay, and cannot run until they are pointed to another source;
        stored rows of it can no longer be read. The database itself is not touched.
      </ConfirmDialog>
    </header>
  );
}
