export interface Sheet {
    Heading: string;
    Body: string;
}
/** Posts a sheet on the board; resolves with its number there. */
declare const _default: {
    pinUp(sheet: Sheet): Promise<number>;
    board: Sheet[];
};
export default _default;
