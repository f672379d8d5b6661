package dev.brume.examples.spring;

import org.springframework.beans.factory.annotation.Value;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;
import org.springframework.security.config.Customizer;
import org.springframework.security.config.annotation.web.builders.HttpSecurity;
import org.springframework.security.core.userdetails.User;
import org.springframework.security.core.userdetails.UserDetailsService;
import org.springframework.security.provisioning.InMemoryUserDetailsManager;
import org.springframework.security.web.SecurityFilterChain;

/** Berths may be booked by all; the timed jobs behind them are for the office. */
@Configuration
class WhoMayWhat {
    @Bean
    SecurityFilterChain office(HttpSecurity http) throws Exception {
        return http.authorizeHttpRequests(requests -> requests.requestMatchers("/brume/**")
                        .authenticated()
                        .anyRequest()
                        .permitAll())
                .httpBasic(Customizer.withDefaults())
                // Brume refuses orders from other sites' pages by itself, and the pages here are asked by programs.
                .csrf(csrf -> csrf.disable())
                .build();
    }

    @Bean
    UserDetailsService people(@Value("${harbour.password}") String password) {
        return new InMemoryUserDetailsManager(
                User.withUsername("ines")
                        .password("{noop}" + password)
                        .authorities("BRUME_ADMIN")
                        .build(),
                User.withUsername("clerk")
                        .password("{noop}" + password)
                        .authorities("BRUME_VIEWER", "BRUME_OPERATOR:ferry")
                        .build());
    }
}
