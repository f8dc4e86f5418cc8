import { Progress } from 'radix-ui';

/** How far something long has come; 0 to 1. */
export function ProgressBar({ label, fraction }: { label: string; fraction: number }) {
  const percent = Math.round(fraction * 100);
  return (
    <Progress.Root value={percent} aria-label={label} className="h-1.5 w-full overflow-hidden rounded-full bg-stock-1">
      <Progress.Indicator
        className="h-full bg-action transition-[width] duration-150"
        style={{ width: `${percent}%` }}
      />
    </Progress.Root>
  );
}
