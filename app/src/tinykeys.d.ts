/** The part of the package that is used; its own types are not where its entry looks for them. */
declare module 'tinykeys' {
  /** One press: modifiers, and the key or a pattern of it. */
  export type KeyBindingPress = [modifiers: string[], key: string | RegExp];
  export function parseKeybinding(text: string): KeyBindingPress[];
  export function matchKeyBindingPress(event: KeyboardEvent, press: KeyBindingPress): boolean;
}
