declare module "music-tempo" {
  export default class MusicTempo {
    constructor(samples: Float32Array, options?: object);
    readonly tempo: number | string;
    readonly beats: number[];
  }
}
