export default {
    board: [],
    async pinUp(sheet) {
        return this.board.push({ ...sheet });
    },
};
