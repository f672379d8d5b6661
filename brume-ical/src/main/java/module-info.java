/** Rules and calendars of RFC 5545. */
module dev.brume.ical {
    requires static transitive org.jspecify;
    requires ical4j.core;
    requires transitive dev.brume.schedule;

    exports dev.brume.ical;

    provides dev.brume.schedule.RuleReader with
            dev.brume.ical.IcalRuleReader;
}
