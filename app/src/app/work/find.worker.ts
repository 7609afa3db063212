/// <reference lib="webworker" />
import { whatItSays } from '@able-plumb/core';
import { readPictureInfo, readPixels } from '@able-plumb/codecs';
import { useBrowserCodecs } from './browser-codecs';
import { expose } from './line';
import type { FindWork } from './protocol';
import { withBytes } from './with-bytes';

/* Finds what pictures say by themselves of how their cameras stood. */

useBrowserCodecs();

const work: FindWork = {
  async inFile(name, file, correction) {
    const picture = await withBytes(file, async (bytes) => readPixels(bytes, name, await readPictureInfo(bytes, name)));
    return whatItSays(picture, correction);
  },

  async inPixels(picture, correction) {
    return whatItSays(picture, correction);
  },
};

expose(work);
