package dev.brume.examples.spring;

import dev.brume.spring.Handles;
import org.springframework.context.annotation.Profile;
import org.springframework.stereotype.Component;

/** Comes with the next version: runs of its job wait for instances that have it. */
@Component
@Profile("next")
class FogSignals {
    @Handles("fog-signal")
    String test() {
        return "heard at the outer mole";
    }
}
