export {
  NO_EFFECTS,
  PUSH_WAYS,
  type Across,
  type Effects,
  type FlashColour,
  type LookField,
  type Passage,
  type PushWay,
  type TitleShown,
} from './look.js';
export { ACCENT_KINDS, definitionOf, fieldsOf, LOOKS, type AccentKind, type AccentLook } from './looks.js';
