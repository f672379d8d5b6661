/** Reads the record and explains it: tally, why, doctor, diff, rehearsal, seals. */
module dev.brume.insight {
    requires static transitive org.jspecify;
    requires dev.brume.memory;
    requires transitive dev.brume.core;

    exports dev.brume.insight.board;
    exports dev.brume.insight.check;
    exports dev.brume.insight.deadline;
    exports dev.brume.insight.diff;
    exports dev.brume.insight.doctor;
    exports dev.brume.insight.health;
    exports dev.brume.insight.past;
    exports dev.brume.insight.rehearsal;
    exports dev.brume.insight.seal;
    exports dev.brume.insight.tally;
    exports dev.brume.insight.watch;
    exports dev.brume.insight.why;
    exports dev.brume.insight.internal to
            dev.brume.simulator;
}
