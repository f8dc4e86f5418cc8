import { StorageScreen } from '@/features/storage/storage-screen';
import { getServer } from '@/server/server';
import { freeBytes } from '@/server/storage/free-space';

export const dynamic = 'force-dynamic';

export default async function StoragePage() {
  const server = getServer();
  return <StorageScreen stores={await server.house.view()} freeBytes={await freeBytes(server.folder.root)} />;
}
