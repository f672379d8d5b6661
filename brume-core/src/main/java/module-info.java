/** Jobs, policies, decisions, the duties of an instance, and what a store implements. */
module dev.brume.core {
    requires static transitive org.jspecify;
    requires java.management;
    requires java.net.http;
    requires org.slf4j;
    requires transitive dev.brume.schedule;
    requires transitive java.sql;

    uses dev.brume.JsonPayloads;

    exports dev.brume;
    exports dev.brume.history;
    exports dev.brume.notice;
    exports dev.brume.spi;
    exports dev.brume.internal.decide to
            dev.brume.definitions;
    exports dev.brume.internal.define to
            dev.brume.insight,
            dev.brume.simulator;
    exports dev.brume.internal.document to
            dev.brume.memory,
            dev.brume.insight,
            dev.brume.jdbc,
            dev.brume.definitions,
            dev.brume.http,
            dev.brume.spring,
            dev.brume.cli;
    exports dev.brume.internal.duty to
            dev.brume.insight,
            dev.brume.cli,
            dev.brume.simulator;
    exports dev.brume.internal.notice to
            dev.brume.insight;
    exports dev.brume.internal.order to
            dev.brume.insight,
            dev.brume.simulator;
    exports dev.brume.internal.retention to
            dev.brume.insight,
            dev.brume.cli,
            dev.brume.simulator;
    exports dev.brume.internal.round to
            dev.brume.insight,
            dev.brume.simulator;
    exports dev.brume.internal.run to
            dev.brume.insight,
            dev.brume.simulator;
    exports dev.brume.internal.session to
            dev.brume.insight,
            dev.brume.simulator;
    exports dev.brume.internal.telling to
            dev.brume.insight,
            dev.brume.simulator;
    exports dev.brume.internal.text to
            dev.brume.insight,
            dev.brume.jdbc,
            dev.brume.cli;
}
