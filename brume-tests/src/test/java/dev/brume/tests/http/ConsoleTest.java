package dev.brume.tests.http;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.Brume;
import dev.brume.Deadline;
import dev.brume.FollowUp;
import dev.brume.Grant;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.PayloadType;
import dev.brume.Role;
import dev.brume.RunHandle;
import dev.brume.history.ChangeFilter;
import dev.brume.http.BrumeHttp;
import dev.brume.jdbc.JdbcStore;
import dev.brume.notice.Channel;
import dev.brume.notice.Notice;
import dev.brume.notice.NoticeKind;
import dev.brume.notice.NoticeRule;
import dev.brume.notice.RefusedException;
import dev.brume.notice.Telling;
import dev.brume.notice.Way;
import dev.brume.server.HttpServer;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.sql.Connection;
import java.sql.Statement;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.stream.Stream;
import org.h2.jdbcx.JdbcDataSource;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.openqa.selenium.By;
import org.openqa.selenium.Dimension;
import org.openqa.selenium.Keys;
import org.openqa.selenium.WebElement;
import org.openqa.selenium.interactions.Actions;

/** The pages, in a real browser. */
class ConsoleTest {
    private static final String HOSTILE = "<img src=x onerror=alert(1)>";
    private static final JobName FAILING = JobName.parse("harbour/lamp-inspection");
    private static final JobName BELL = JobName.parse("bell");
    private static final JobName EBB = JobName.parse("ferry/ebb");
    private static Web web;
    private static long failed;
    private static Browser browser;

    @BeforeAll
    static void open() throws Exception {
        web = Web.open();
        web.brume.handler("lamps", run -> {
            run.print("lamp 1 of 2 " + HOSTILE);
            throw new IllegalStateException("lamp 2 is broken " + HOSTILE);
        });
        web.brume.define(Job.named(FAILING)
                .description("Looks at the lamps " + HOSTILE)
                .every(Duration.ofSeconds(1))
                .endBy(Deadline.after(Duration.ofSeconds(1)))
                .handler("lamps")
                .tag("lamps")
                .build());
        web.brume.define(
                Job.named("harbour/berths"),
                new PayloadType<>("berth", text -> Integer.parseInt(text.strip()), String::valueOf),
                (run, berth) -> run.print("berth " + berth));
        web.brume.define(Job.named(BELL).handler("tide-tables").build());
        web.brume.define(Job.named(EBB)
                .handler("tide-tables")
                .followUp(FollowUp.On.SUCCESS, Web.TIDES.toString())
                .build());
        RunHandle run = web.brume.orders("mara", "").runNow(FAILING, "{\"lamp\": 2}");
        run.await(Duration.ofMinutes(1));
        failed = run.id();
        web.brume.orders("mara", "").runNow(Web.TIDES).await(Duration.ofMinutes(1));
        browser = Browser.open(web, Grant.everywhere(Role.ADMIN));
    }

    @AfterAll
    static void close() {
        if (browser != null) {
            browser.close();
        }
        web.close();
    }

    private static Stream<String> pages() {
        return Stream.of(
                "/",
                "/?zoom=5w",
                "/?by=tag&trouble=true",
                "/jobs",
                "/jobs/harbour/tide-tables",
                "/jobs/harbour/lamp-inspection",
                "/jobs/harbour/lamp-inspection/weeks",
                "/runs",
                "/runs/" + failed,
                "/coming",
                "/coming?span=month",
                "/instances",
                "/changes",
                "/tally",
                "/doctor",
                "/notices",
                "/notices?state=DELIVERED&channel=harbour/duty",
                "/limits",
                "/calendars",
                "/define",
                "/jobs/harbour/lamp-inspection/define",
                "/tokens",
                "/nothing-here");
    }

    private static void check(Browser looking, String page) {
        looking.go(page);
        assertThat(looking.violations()).as(page).isEqualTo(List.of());
        assertThat(looking.tooWide()).as(page + " is wider than the window").isEqualTo(0L);
    }

    @Test
    void everyPageIsForEverybodyAndAsksNobodyElse() {
        browser.complaints();
        browser.requests();
        pages().forEach(page -> check(browser, page));
        assertThat(browser.requests())
                .isNotEmpty()
                .allMatch(
                        address -> address.startsWith(web.server.address().toString()) || address.startsWith("data:"));
        assertThat(browser.complaints()).allMatch(text -> text.contains("/nothing-here") && text.contains("404"));
    }

    @Test
    void darkAndNarrowTheyAreToo() {
        try (Browser phone = Browser.open(
                web, Grant.everywhere(Role.VIEWER), "--force-dark-mode", "--blink-settings=preferredColorScheme=0")) {
            phone.driver.manage().window().setSize(new Dimension(390, 844));
            phone.driver.executeCdpCommand(
                    "Emulation.setDeviceMetricsOverride",
                    Map.of("width", 390, "height", 844, "deviceScaleFactor", 1, "mobile", true));
            phone.go("/");
            assertThat(phone.driver.executeScript("return matchMedia('(prefers-color-scheme: dark)').matches"))
                    .isEqualTo(true);
            Stream.of("/", "/jobs", "/jobs/harbour/lamp-inspection", "/runs/" + failed, "/coming", "/tally", "/notices")
                    .forEach(page -> check(phone, page));
        }
    }

    /** To whatever has the focus: rows are put in place of themselves as things happen. */
    private static void press(Keys key) {
        new Actions(browser.driver).sendKeys(key).perform();
    }

    @Test
    void theBoardTellsByKeysWhatBecameOfAnOccurrence() {
        browser.go("/?zoom=10m&text=lamp");
        browser.driver.executeScript("document.querySelector('.line').focus()");
        press(Keys.ARROW_RIGHT);
        browser.await("the sentence", () -> browser.find("#says").getText().startsWith("harbour/lamp-inspection"));
        AtomicInteger looks = new AtomicInteger();
        browser.await("what is to come", () -> {
            // The last mark may have come to pass before it is told of: then the next one is the last.
            if (looks.getAndIncrement() % 40 == 0) {
                browser.driver.executeScript("document.querySelector('.line').focus()");
                press(Keys.END);
            }
            String says = browser.find("#says").getText();
            return says.contains("to come") || says.contains("is to run");
        });
        press(Keys.ESCAPE);
        browser.await("nothing chosen", () -> browser.find("#says").getText().startsWith("Point at a mark"));
        // The sentence is told anew as runs end, so that what was found may have been replaced.
        assertThat(browser.driver.executeScript("return document.querySelector('h1').textContent"))
                .asString()
                .contains("occurrences of the last 24 hours")
                .contains("failed");
    }

    @Test
    void anAnswerAboutWhatIsNoLongerChosenComesTooLate() {
        browser.go("/?zoom=1h");
        browser.driver.executeScript("""
                const mark = document.querySelector('.line > a:not(:has(> .band))');
                mark.closest('.line').focus();
                const real = window.fetch;
                window.fetch = (address, how) => String(address).includes('/why?')
                    ? new Promise(go => window.answer = () => go({ ok: true, text: async () => 'too late' }))
                    : real(address, how);
                mark.dispatchEvent(new MouseEvent('mouseover', { bubbles: true }));
                """);
        browser.await(
                "a question under way",
                () -> Boolean.TRUE.equals(browser.driver.executeScript("return !!window.answer")));
        press(Keys.ESCAPE);
        browser.driver.executeAsyncScript(
                "const done = arguments[0]; window.answer(); setTimeout(() => setTimeout(done));");
        assertThat(browser.find("#says").getText()).startsWith("Point at a mark");
    }

    @Test
    void whatHappensIsSeenWithoutLoadingThePageAgain() {
        browser.go("/?zoom=10m&text=bell");
        browser.driver.executeScript("""
                window.stays = true;
                window.moved = [];
                new PerformanceObserver(list => list.getEntries().forEach(entry => window.moved.push(entry.value)))
                    .observe({ type: "layout-shift" });
                """);
        assertThat(browser.all(".m-ran[data-at]")).isEmpty();
        web.brume.orders("mara", "").runNow(BELL);
        browser.await("the run", () -> !browser.all(".line .m-ran[data-at]").isEmpty());
        assertThat(browser.driver.executeScript("return window.stays")).isEqualTo(true);
        assertThat(browser.driver.executeScript("return window.moved.filter(share => share > 0.002)"))
                .as("nothing moves but figures that become wider")
                .isEqualTo(List.of());
    }

    @Test
    void missedDeadlinesStandWhereTheyPassed() {
        browser.go("/?zoom=10m&text=lamp-inspection");
        browser.await("a deadline", () -> {
            browser.driver.navigate().refresh();
            return !browser.all(".line .m-deadline").isEmpty();
        });
        assertThat(browser.find(".line .m-deadline title").getDomProperty("textContent"))
                .contains("deadline", "missed");
        browser.go("/tally");
        assertThat(browser.text())
                .contains("Deadlines missed")
                .containsPattern("Of \\d+ deadlines?, \\d+ w(as|ere) missed");
        browser.go("/jobs/harbour/lamp-inspection/weeks");
        assertThat(browser.all(".line .m-deadline")).isNotEmpty();
    }

    /** The board that everybody is told is of a moment ago; what came since is told once it is worked out anew, though nothing else happens. */
    @Test
    void theSentenceComesToKnowWhatHappenedLast() throws Exception {
        try (Web quiet = Web.open();
                Browser looking = Browser.open(quiet, Grant.everywhere(Role.VIEWER))) {
            quiet.brume.handler("lamps", run -> {
                throw new IllegalStateException("the lamp is broken");
            });
            quiet.brume.define(Job.named("lamps")
                    .once(Instant.now().plusSeconds(4))
                    .handler("lamps")
                    .build());
            looking.go("/");
            looking.await("what failed", () -> looking.text().contains("1 failed"));
        }
    }

    @Test
    void aStoreThatMayOnlyBeReadIsLookedAtAllTheSame() throws Exception {
        JdbcDataSource harbour = new JdbcDataSource();
        harbour.setURL("jdbc:h2:mem:read-only;DB_CLOSE_DELAY=-1");
        try (Brume office = Brume.on(JdbcStore.on(harbour)).withoutLog().build()) {
            office.define(Job.named("lamps")
                    .every(Duration.ofHours(1))
                    .handler("lamps")
                    .build());
            try (Connection connection = harbour.getConnection();
                    Statement statement = connection.createStatement()) {
                statement.execute("create user looker password 'looks'");
                statement.execute("grant select on schema public to looker");
            }
        }
        harbour.setURL("jdbc:h2:mem:read-only");
        harbour.setUser("looker");
        harbour.setPassword("looks");
        JdbcStore reading = JdbcStore.builder(harbour).withoutSchemaChanges().build();
        try (Brume looker = Brume.on(reading).withoutLog().build();
                HttpServer server =
                        HttpServer.start(BrumeHttp.of(looker).key(Web.KEY).build(), "127.0.0.1", 0, Optional.empty())) {
            HttpResponse<String> page = HttpClient.newHttpClient()
                    .send(
                            HttpRequest.newBuilder(server.address().resolve("/"))
                                    .header("Authorization", "Bearer " + Web.KEY)
                                    .header("Accept", "text/html")
                                    .build(),
                            HttpResponse.BodyHandlers.ofString());
            assertThat(page.statusCode()).as(page.body()).isEqualTo(200);
            assertThat(page.body()).contains("data-job=\"main/lamps\"", "data-events=\"\"");
        }
    }

    @Test
    void withoutScriptsAllOfItCanBeLookedAt() {
        try (Browser plain = Browser.open(web, Grant.everywhere(Role.VIEWER), "without scripts")) {
            assertThat(plain.go("/?zoom=1h").all(".row")).hasSizeGreaterThan(2);
            assertThat(plain.find("h1").getText()).contains("of the last 24 hours");
            plain.find(".row-name a").click();
            assertThat(plain.find("h1").getText()).isEqualTo("ferry/dock-check");
            pages().filter(page -> !page.equals("/tokens") && !page.equals("/nothing-here"))
                    .forEach(page ->
                            assertThat(plain.go(page).all("main h1")).as(page).hasSize(1));
        }
    }

    @Test
    void namesAndOutputAreTextWhateverIsInThem() {
        browser.complaints();
        assertThat(browser.go("/jobs/harbour/lamp-inspection").find(".lead").getText())
                .contains(HOSTILE);
        browser.go("/runs/" + failed);
        assertThat(browser.find(".error").getText()).contains("lamp 2 is broken " + HOSTILE);
        assertThat(browser.find(".output").getText()).contains("lamp 1 of 2 " + HOSTILE);
        assertThat(browser.text()).contains("\"lamp\" : 2");
        browser.find(".find").sendKeys("<img");
        browser.await("what was found", () -> browser.all(".output mark").size() == 1);
        assertThat(browser.complaints()).isEmpty();
    }

    private static WebElement order(Browser looking, String word) {
        for (WebElement order : looking.all(".order")) {
            WebElement summary = order.findElement(By.tagName("summary"));
            if (summary.getText().equals(word)) {
                summary.click();
                return order;
            }
        }
        throw new AssertionError("nothing like that can be ordered: " + word);
    }

    @Test
    void daysToComeAreRehearsedOnThePage() {
        browser.go("/coming");
        assertThat(browser.all(".days > li")).hasSize(7);
        assertThat(browser.find(".days").getText()).contains("tide-tables");
        WebElement order = order(browser, "Rehearse");
        order.findElement(By.name("for")).clear();
        order.findElement(By.name("for")).sendKeys("1h");
        order.findElement(By.tagName("button")).click();
        browser.await("what it came to", () -> order.getText().contains("Lane main: at most"));
    }

    @Test
    void anOrderIsCarriedOutWithItsReasonOrSaysWhatIsWrong() {
        browser.go("/jobs/ferry/dock-check");
        WebElement order = order(browser, "Run now");
        order.findElement(By.name("payload")).sendKeys("{\"dock\": 3}");
        order.findElement(By.name("because")).sendKeys("the dock was repaired");
        order.findElement(By.tagName("button")).click();
        browser.await("the answer", () -> order.getText().contains("Done. Run "));
        assertThat(web.brume.history().changes(ChangeFilter.newest(20)))
                .anyMatch(change -> change.change().because().equals("the dock was repaired")
                        && change.change().who().equals("mara"));
        WebElement pause = order(browser, "Pause");
        pause.findElement(By.name("until")).sendKeys("tomorrow");
        pause.findElement(By.tagName("button")).click();
        browser.await("what is wrong", () -> pause.getText().contains("'tomorrow' is not an instant"));
    }

    @Test
    void whatWasToldIsSeenAcknowledgedAndSentAgain() throws Exception {
        List<Notice> told = new CopyOnWriteArrayList<>();
        AtomicBoolean takes = new AtomicBoolean();
        web.brume.receive("duty", notice -> {
            if (!takes.get()) {
                throw new RefusedException("the desk is closed");
            }
            told.add(notice);
        });
        web.brume.tell(
                "harbour",
                Telling.NOTHING
                        .with(Channel.named("harbour/duty", new Way.Code("duty")))
                        .with(NoticeRule.named("harbour/troubles")
                                .tell(NoticeKind.FAILED)
                                .to("duty")));
        web.brume.orders("mara", "").runNow(FAILING, "{\"lamp\": 2}").await(Duration.ofMinutes(1));
        browser.await(
                "the notice",
                () -> browser.go("/notices?state=UNDELIVERED")
                        .find("body")
                        .getText()
                        .contains("the desk is closed"));
        assertThat(browser.find("body").getText())
                .contains("1 cause goes on")
                .contains("1 not delivered")
                .contains("harbour/duty");

        WebElement silence = order(browser, "Acknowledge a cause");
        silence.findElement(By.name("because")).sendKeys("the lamp is on its way");
        silence.findElement(By.tagName("button")).click();
        browser.await("the answer", () -> silence.getText().contains("Done."));
        takes.set(true);
        WebElement again = order(browser, "Send a notice again");
        again.findElement(By.tagName("button")).click();
        browser.await("that it arrived", () -> !told.isEmpty());
        browser.await(
                "that it says so",
                () -> browser.go("/notices").find("body").getText().contains("arrived"));
        assertThat(browser.find("body").getText()).contains("by mara: the lamp is on its way");
    }

    @Test
    void jobsAreFoundAsTheNameIsTyped() {
        browser.go("/jobs");
        browser.find("input[name=text]").sendKeys("tide");
        browser.await("the only one", () -> browser.all("#jobs tbody tr").size() == 1);
        assertThat(browser.find("#jobs tbody").getText()).contains("harbour/tide-tables");
        browser.await(
                "how it went lately",
                () -> browser.find("#jobs tbody").getText().contains("1 of 1 succeeded"));
    }

    @Test
    void instancesSayHowBusyTheyAreAndHowTheirProcessesAre() {
        assertThat(browser.go("/instances").find("tbody").getText())
                .contains("quay-1")
                .containsPattern("\\d+ of \\d+ \\d+ of \\d+ MB .*, \\d+ main=");
    }

    @Test
    void jobsStandByWhatIsDueNext() {
        browser.go("/jobs");
        browser.find("select[name=sort] option[value=next]").click();
        browser.find("form[role=search] button").click();
        browser.await("the order", () -> browser.find("#jobs tbody").getText().startsWith(FAILING.toString()));
    }

    /** Orders something for the jobs that are ticked, and returns what the page asks before and says afterwards. */
    private static List<String> orderTicked(String what, String answer) {
        browser.find("button[data-order=" + what + "]").click();
        String asked = browser.driver.switchTo().alert().getText();
        browser.driver.switchTo().alert().accept();
        WebElement says = browser.find("#many .answer");
        browser.await("the answer", () -> says.getText().startsWith(answer));
        return List.of(asked, says.getText());
    }

    private static List<String> tagsOf(JobName job) {
        return web.brume.history().job(job).orElseThrow().job().tags();
    }

    @Test
    void severalJobsAreTaggedAtOnceExceptThoseThatAFileDefines() {
        JobName horn = JobName.parse("harbour/fog-horn");
        web.as(Role.ADMIN);
        web.send("PUT", "/jobs/harbour/fog-horn/definition", "{\"work\": {\"handler\": \"tide-tables\"}}")
                .is(201);
        browser.go("/jobs");
        for (JobName job : List.of(horn, Web.TIDES)) {
            browser.find(".tick[value='" + job + "']").click();
        }
        browser.find("#many input[name=because]").sendKeys("for the pilots");
        browser.find("#many input[name=label]").sendKeys("pilots");
        List<String> said = orderTicked("tag", "1 tagged; ");
        assertThat(said.get(0)).isEqualTo("Tag 'pilots': harbour/fog-horn, harbour/tide-tables?");
        assertThat(said.get(1)).contains("harbour/tide-tables: the job 'harbour/tide-tables' is defined by api");
        assertThat(tagsOf(horn)).containsExactly("pilots");
        orderTicked("untag", "1 without the tag; ");
        assertThat(tagsOf(horn)).isEmpty();
        web.brume.drop(horn);
    }

    @Test
    void aPayloadThatNoAttemptCouldReadIsRefusedWhereItWasTyped() {
        browser.go("/jobs/harbour/berths");
        WebElement order = order(browser, "Run now");
        order.findElement(By.name("payload")).sendKeys("\"seven\"");
        order.findElement(By.tagName("button")).click();
        browser.await(
                "what is wrong",
                () -> order.getText().contains("payload cannot be read as berth: For input string: \"seven\""));
        order.findElement(By.name("payload")).clear();
        order.findElement(By.name("payload")).sendKeys("7");
        order.findElement(By.tagName("button")).click();
        browser.await("the answer", () -> order.getText().contains("Done. Run "));
    }

    @Test
    void thePageSaysThatTheStoreIsAwayAndGoesOnByItself() throws Exception {
        AwaySource source = new AwaySource("away");
        try (Brume brume = Brume.on(JdbcStore.on(source)).withoutLog().build();
                Web other = Web.over(brume);
                Browser looking = Browser.open(other, Grant.everywhere(Role.VIEWER))) {
            looking.go("/jobs");
            source.away(true);
            looking.find("input[name=text]").sendKeys("tide");
            looking.await(
                    "what is wrong", () -> looking.find("#trouble").getText().startsWith("The store cannot answer"));
            assertThat(looking.find("input[name=text]").getDomProperty("value")).isEqualTo("tide");
            assertThat(looking.go("/instances").text()).contains("tries again");
            source.away(false);
            looking.await("the page", () -> looking.find("h1").getText().equals("Instances"));
        }
    }

    @Test
    void aPageOfThePastSaysSoAndOrdersNothing() {
        String then = web.brume.history().now().minusSeconds(1).toString();
        browser.go("/jobs/harbour/tide-tables?asOf=" + then);
        assertThat(browser.find(".as-of").getText()).contains("As it was");
        assertThat(browser.all(".order")).isEmpty();
        assertThat(browser.find("nav a").getDomAttribute("href")).contains("asOf=");
        assertThat(browser.go("/?asOf=" + then).all(".row")).isNotEmpty();
    }

    @Test
    void thePageStaysWhenTheServerIsAwayAndKeepsWhatWasTyped() throws Exception {
        try (Web other = Web.open();
                Browser looking = Browser.open(other, Grant.everywhere(Role.OPERATOR))) {
            looking.go("/jobs/ferry/dock-check");
            WebElement order = order(looking, "Run now");
            order.findElement(By.name("because")).sendKeys("typed at length");
            other.server.close();
            order.findElement(By.tagName("button")).click();
            looking.await("what is wrong", () -> order.getText().contains("The server cannot be reached"));
            assertThat(order.findElement(By.name("because")).getDomProperty("value"))
                    .isEqualTo("typed at length");
        }
    }

    @Test
    void aWrongAddressIsSaidToBeOneAndNothingBreaks() {
        Map<String, String> wrongs = Map.of(
                "/tally?from=1900-01-01T00:00:00Z",
                "longer than 400 days",
                "/?zoom=7x",
                "is not one of 10m, 1h",
                "/?zone=" + "Nowhere",
                "Nowhere",
                "/?at=soon",
                "is not an instant",
                "/runs?outcome=GREAT",
                "is not one of RUNNING",
                "/jobs/harbour/none",
                "there is no job",
                "/jobs?tide=1",
                "unknown parameter");
        wrongs.forEach((page, says) -> {
            Web.Said said = web.send(web.request(page).header("Accept", "text/html"));
            assertThat(said.status()).as(page).isBetween(400, 422);
            assertThat(said.body()).as(page).contains("<h1>").contains(says);
        });
        assertThat(web.send(web.request("/?at=9999-01-01T00:00:00Z&zoom=5w").header("Accept", "text/html"))
                        .status())
                .isIn(200, 400);
    }

    @Test
    void aTenantSeesWhatIsTheirsAndAViewerIsOfferedNoOrder() {
        try (Browser tenant = Browser.open(web, Grant.within(Set.of("ferry"), Role.VIEWER))) {
            tenant.go("/");
            assertThat(tenant.text())
                    .contains("dock-check")
                    .doesNotContain("tide-tables")
                    .doesNotContain("lamp");
            assertThat(tenant.go("/jobs/ferry/dock-check").all(".order")).isEmpty();
            assertThat(tenant.go("/jobs/harbour/tide-tables").text()).contains("that you may look at");
            assertThat(tenant.go("/runs/" + failed).text()).contains("there is no run");
            assertThat(tenant.go("/changes").text()).doesNotContain("harbour/");
            assertThat(tenant.go("/tally").text()).doesNotContain("harbour/");
            assertThat(tenant.go("/jobs/ferry/ebb").find(".chain ol").getText())
                    .contains("harbour/tide-tables")
                    .doesNotContain("usually takes");
            assertThat(browser.go("/jobs/ferry/ebb").find(".chain ol").getText())
                    .contains("harbour/tide-tables usually takes");
        }
    }
}
