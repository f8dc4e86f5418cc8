'use client';

import { Play, Square } from 'lucide-react';
import { useState } from 'react';
import type { DeliveryView } from '@/server/jobs/delivery-view';
import { Button } from '@/ui/button';
import { writtenPlayerMessages as messages } from './messages';

/** Opens and closes the player of a row. */
export function PlayButton({ isOpen, name, onToggle }: { isOpen: boolean; name: string; onToggle: () => void }) {
  return (
    <Button
      kind="quiet"
      aria-label={isOpen ? messages.closeThePlayerOf(name) : messages.playFile(name)}
      aria-expanded={isOpen}
      title={isOpen ? messages.closeThePlayer : messages.playTheWrittenFile}
      onClick={onToggle}
    >
      {isOpen ? <Square size={15} aria-hidden /> : <Play size={15} aria-hidden />}
    </Button>
  );
}

/** Plays the very bytes that were written, each channel's file by itself; says so where the browser can't. */
export function WrittenPlayer({ delivery: { id, files, fileName } }: { delivery: DeliveryView }) {
  const [hasFailed, setHasFailed] = useState(false);
  const parts = files.length > 0 ? files : [{ fileName, channel: null }];
  if (hasFailed) {
    return <p className="text-sm text-mute">{messages.cannotPlay}</p>;
  }
  return (
    <div className="flex flex-wrap items-center gap-3">
      {parts.map((part, index) => (
        <span key={part.fileName} className="flex items-center gap-2 text-xs text-mute">
          {part.channel}
          {/* biome-ignore lint/a11y/useMediaCaption: a delivery has no captions; its title stands above. */}
          <audio
            controls
            autoPlay={index === 0}
            aria-label={messages.writtenFile(part.fileName)}
            src={`/api/deliveries/${id}/file?part=${index}`}
            onError={() => setHasFailed(true)}
            className="h-9"
          />
        </span>
      ))}
    </div>
  );
}
