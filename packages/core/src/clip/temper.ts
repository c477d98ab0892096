/** Quality levels of Flow, from fast to good. */
export const FLOW_LEVELS = ['quick', 'default', 'best'] as const;
export type FlowLevel = (typeof FLOW_LEVELS)[number];

/** How Flow makes its pictures where the evidence leaves a choice. */
export interface FlowTemper {
  /** How far motion is trusted: 1 everywhere; less, and the places least sure are blended as Mix does; 0 nowhere. */
  readonly trust: number;
  /**
   * Where the two pictures do not agree: 0 their mean by the distance in time; towards 1 (keen) one of the two, crisp, at the risk of
   * tears; towards −1 (calm) both, and motion evened out, soft and without tears.
   */
  readonly keenness: number;
}

export const EVEN_TEMPER: FlowTemper = { trust: 1, keenness: 0 };

/** Whether two tempers make the same pictures. */
export const sameTemper = (a: FlowTemper, b: FlowTemper): boolean => a.trust === b.trust && a.keenness === b.keenness;
