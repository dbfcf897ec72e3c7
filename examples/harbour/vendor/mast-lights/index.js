export class MastLights {
    shown = "";
    hoist(pattern) {
        if (!/^[RGW]{1,3}$/.test(pattern))
            return false;
        this.shown = pattern;
        return true;
    }
}
