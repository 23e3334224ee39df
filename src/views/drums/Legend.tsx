/** What the marks of the picture of hits mean. */
export function Legend({ compares }: { compares: boolean }) {
  return (
    <div className="legend">
      <svg width={compares ? 560 : 90} height={20} aria-hidden="true">
        <g className="hit reference">
          <line x1={6} x2={6} y1={4} y2={16} strokeWidth={5} strokeLinecap="round" />
        </g>
        <text x={16} y={14}>
          reference
        </text>
        {compares && (
          <>
            <g className="hit version">
              <line x1={96} x2={96} y1={4} y2={16} strokeWidth={5} strokeLinecap="round" />
              <line x1={242} x2={242} y1={2} y2={18} strokeWidth={5} strokeDasharray="4 3" />
            </g>
            <text x={106} y={14}>
              yours
            </text>
            <circle className="mark missing" cx={160} cy={10} r={5.5} />
            <text x={171} y={14}>
              missing
            </text>
            <text x={252} y={14}>
              extra
            </text>
            <g className="mark late">
              <path d="M 322 10 h 12 m -4 -3.2 l 4 3.2 l -4 3.2" />
            </g>
            <text x={342} y={14}>
              where it should be, ms
            </text>
            <line className="mark force" x1={488} x2={500} y1={10} y2={10} />
            <text x={508} y={14}>
              velocity
            </text>
          </>
        )}
      </svg>
    </div>
  );
}
