import { inject, makeEnvironmentProviders, provideAppInitializer, type EnvironmentProviders } from '@angular/core';
import { MatIconRegistry } from '@angular/material/icon';
import { MAT_TOOLTIP_DEFAULT_OPTIONS, type MatTooltipDefaultOptions } from '@angular/material/tooltip';
import { DomSanitizer } from '@angular/platform-browser';
import sprite from './icons.svg';

/** How Material's parts behave here, and the sprite that the icons come from. */
export function provideLook(): EnvironmentProviders {
  const tooltips: MatTooltipDefaultOptions = { showDelay: 500, hideDelay: 0, touchendHideDelay: 1500, disableTooltipInteractivity: true };
  return makeEnvironmentProviders([
    { provide: MAT_TOOLTIP_DEFAULT_OPTIONS, useValue: tooltips },
    provideAppInitializer(() => {
      inject(MatIconRegistry).addSvgIconSetLiteral(inject(DomSanitizer).bypassSecurityTrustHtml(sprite));
    }),
  ]);
}
