/** The lights on the signal mast: `R` red, `G` green, `W` white, from the top down. */
export declare class MastLights {
    shown: string;
    /** Hoists lights; false where the mast does not have them. */
    hoist(pattern: string): boolean;
}
