import type { Provider } from '@angular/core';
import { MAT_FORM_FIELD_DEFAULT_OPTIONS, type MatFormFieldDefaultOptions } from '@angular/material/form-field';

const options: MatFormFieldDefaultOptions = { appearance: 'outline', subscriptSizing: 'dynamic' };

/** How fields look here: given by the parts that have some, so that Start, which has none, need not fetch Material's. */
export const FIELDS: Provider = { provide: MAT_FORM_FIELD_DEFAULT_OPTIONS, useValue: options };
