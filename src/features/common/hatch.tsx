/** The pattern of what is forbidden, to be used as fill="url(#id)". Equal ids define equal patterns. */
export function Hatch({ id, className }: { id: string; className: string }) {
  return (
    <defs>
      <pattern id={id} width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <line x1="0" x2="0" y1="0" y2="6" className={className} strokeWidth="2" />
      </pattern>
    </defs>
  );
}
