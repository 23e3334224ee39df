import { decodeFile } from "@/server/decode";
import { sweepLevels, truePeaks } from "@/core/loudness";
import { waveformOverview } from "@/core/audio/overview";
const d=await decodeFile("/tmp/x/CopperKites.wav"); if(!d.ok) throw 1; const s=d.value.signal;
for(let i=0;i<3;i++){let t=performance.now(); sweepLevels(s); const a=performance.now()-t; t=performance.now(); truePeaks(s); const b=performance.now()-t; t=performance.now(); waveformOverview([s.channels[0]!,s.channels[1]!]); console.log(a.toFixed(0),b.toFixed(0),(performance.now()-t).toFixed(0));}
