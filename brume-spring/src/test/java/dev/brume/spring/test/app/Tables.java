package dev.brume.spring.test.app;

import dev.brume.OneOff;
import dev.brume.OneOffs;
import dev.brume.Run;
import dev.brume.spring.Handles;
import org.springframework.stereotype.Component;

@Component
class Tables {
    private final HarbourApplication.Board board;
    private final OneOffs orders;

    Tables(HarbourApplication.Board board, OneOffs orders) {
        this.board = board;
        this.orders = orders;
    }

    @Handles(value = "tide-tables", cron = "15 4 * * *", zone = "Atlantic/Azores")
    void tables(Run run) {
        board.show("tides of " + run.plannedLocal().toLocalDate());
        orders.add(OneOff.of("reminders", "r" + run.id()).payload("print"));
    }

    @Handles("reminders")
    void remind(String payload) {
        board.show(payload);
    }
}
