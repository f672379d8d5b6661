/** Time mathematics: cron, every, once, zones, calendars, words. */
module dev.brume.schedule {
    requires static transitive org.jspecify;

    exports dev.brume.schedule;

    uses dev.brume.schedule.RuleReader;
}
