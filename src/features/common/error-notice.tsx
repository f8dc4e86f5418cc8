import type { ErrorRecord } from '@/core/errors/app-error';
import { Notice } from '@/ui/notice';

/** What happened, what is safe and what to do; nothing where there is no error. */
export function ErrorNotice({
  error,
  onClose,
}: {
  error: ErrorRecord | undefined;
  onClose?: (() => void) | undefined;
}) {
  if (!error) return null;
  return (
    <Notice {...(onClose ? { onClose } : {})}>
      {error.happened} {error.safe} {error.todo}
    </Notice>
  );
}
