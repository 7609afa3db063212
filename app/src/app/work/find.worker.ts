/// <reference lib="webworker" />
import { whatItSays } from '@able-plumb/core';
import { readPictureInfo, readPixels } from '@able-plumb/codecs';
import { useBrowserCodecs } from './browser-codecs';
import { expose } from './line';
import type { FindWork } from './protocol';

/* Finds what pictures say by themselves of how their cameras stood. */

useBrowserCodecs();

const work: FindWork = {
  async inFile(name, file, correction) {
    const bytes = new Uint8Array(await file.arrayBuffer());
    return whatItSays(await readPixels(bytes, name, await readPictureInfo(bytes, name)), correction);
  },

  async inPixels(picture, correction) {
    return whatItSays(picture, correction);
  },
};

expose(work);
