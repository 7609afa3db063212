import { escaped } from '../xml';

/** Names of the elements (eSCL 2.9, from memory). */
const NAMES = 'xmlns:pwg="http://www.pwg.org/schemas/2010/12/sm" xmlns:scan="http://schemas.hp.com/imaging/escl/2011/05/03"';
const document = (root: string, inside: string): string =>
  `<?xml version="1.0" encoding="UTF-8"?>\n<scan:${root} ${NAMES}>\n<pwg:Version>2.9</pwg:Version>\n${inside}\n</scan:${root}>\n`;

/** Lengths of the protocol are three hundredths of an inch. */
export const UNIT_MM = 25.4 / 300;

/** What the stand-in can do. */
export interface Abilities {
  readonly name: string;
  readonly uuid: string;
  readonly widthMm: number;
  readonly heightMm: number;
  readonly resolutions: readonly number[];
}

export const capabilities = ({ name, uuid, widthMm, heightMm, resolutions }: Abilities): string =>
  document(
    'ScannerCapabilities',
    `<pwg:MakeAndModel>${escaped(name)}</pwg:MakeAndModel>
<scan:UUID>${uuid}</scan:UUID>
<scan:Platen><scan:PlatenInputCaps>
<scan:MinWidth>300</scan:MinWidth><scan:MaxWidth>${Math.floor(widthMm / UNIT_MM)}</scan:MaxWidth>
<scan:MinHeight>300</scan:MinHeight><scan:MaxHeight>${Math.floor(heightMm / UNIT_MM)}</scan:MaxHeight>
<scan:MaxScanRegions>1</scan:MaxScanRegions>
<scan:SettingProfiles><scan:SettingProfile>
<scan:ColorModes><scan:ColorMode>RGB24</scan:ColorMode><scan:ColorMode>Grayscale8</scan:ColorMode></scan:ColorModes>
<scan:DocumentFormats><pwg:DocumentFormat>image/jpeg</pwg:DocumentFormat><scan:DocumentFormatExt>image/jpeg</scan:DocumentFormatExt></scan:DocumentFormats>
<scan:SupportedResolutions><scan:DiscreteResolutions>
${resolutions.map((r) => `<scan:DiscreteResolution><scan:XResolution>${r}</scan:XResolution><scan:YResolution>${r}</scan:YResolution></scan:DiscreteResolution>`).join('\n')}
</scan:DiscreteResolutions></scan:SupportedResolutions>
</scan:SettingProfile></scan:SettingProfiles>
</scan:PlatenInputCaps></scan:Platen>`,
  );

/** A job as the status lists it. */
export interface ListedJob {
  readonly path: string;
  readonly uuid: string;
  readonly state: 'Processing' | 'Completed' | 'Canceled' | 'Aborted';
  readonly reason: string;
  readonly ageSeconds: number;
  readonly completed: number;
}

export const status = (state: 'Idle' | 'Processing' | 'Stopped' | 'Testing', reason: string | null, jobs: readonly ListedJob[]): string =>
  document(
    'ScannerStatus',
    `<pwg:State>${state}</pwg:State>${reason === null ? '' : `\n<pwg:StateReasons><pwg:StateReason>${reason}</pwg:StateReason></pwg:StateReasons>`}
<scan:Jobs>
${jobs
  .map(
    (job) =>
      `<scan:JobInfo><pwg:JobUri>${job.path}</pwg:JobUri><pwg:JobUuid>${job.uuid}</pwg:JobUuid><scan:Age>${Math.round(job.ageSeconds)}</scan:Age><pwg:ImagesCompleted>${job.completed}</pwg:ImagesCompleted><pwg:ImagesToTransfer>${1 - job.completed}</pwg:ImagesToTransfer><pwg:JobState>${job.state}</pwg:JobState><pwg:JobStateReasons><pwg:JobStateReason>${job.reason}</pwg:JobStateReason></pwg:JobStateReasons></scan:JobInfo>`,
  )
  .join('\n')}
</scan:Jobs>`,
  );

export const imageInfo = (path: string, uuid: string, width: number, height: number, channels: number): string =>
  document(
    'ScanImageInfo',
    `<pwg:JobUri>${path}</pwg:JobUri><pwg:JobUuid>${uuid}</pwg:JobUuid>
<scan:ActualWidth>${width}</scan:ActualWidth><scan:ActualHeight>${height}</scan:ActualHeight><scan:ActualBytesPerLine>${width * channels}</scan:ActualBytesPerLine>`,
  );
