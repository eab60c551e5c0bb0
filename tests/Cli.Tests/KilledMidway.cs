using System.Collections.Concurrent;
using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using System.Text.RegularExpressions;
using ComeAboard.Client;
using ComeAboard.Client.Accounts;
using ComeAboard.Client.Applications;
using ComeAboard.Client.Invitations;
using ComeAboard.Client.SignIn;
using ComeAboard.Standins.Dns;
using ComeAboard.Standins.SignIn;
using Xunit;

namespace ComeAboard.Cli.Tests;

/// <summary>The service killed while accounts change hands, while people come in by their own organisation, while programs are let in.</summary>
public sealed partial class KilledMidway : Killing
{
    private const string Domain = "crew.example";

    [Fact]
    public async Task Killed_while_accounts_are_claimed_and_split_each_is_whole_on_one_side_or_the_other()
    {
        await using var dns = new DnsStandin();
        Reach(dns);
        using var house = await SetUpWorkspaceAsync();
        using var other = await SetUpAnotherAsync();
        var people = Enumerable.Range(0, 8).Select(n => $"sailor{n}@{Domain}").ToList();
        using (var service = await ServeAsync())
        {
            await ProveAsync(house, dns);
            foreach (var address in people)
            {
                await AcceptAsync(other, new InvitationRequest(address, "guest", "view"), isNew: true);
                await AcceptAsync(house, new InvitationRequest(address, "staff", "view"), isNew: false);
            }
            var asked = await house.ClaimStepAsync(new ClaimStepRequest("ask", people));
            Assert.All(asked.Results, one => Assert.True(one.Done, one.Sentence));
            await EndAsync(service);
        }
        var sent = new ConcurrentDictionary<string, bool>();
        await UnderFireAsync(people, AnswerAsync);

        using var last = await ServeAsync();
        foreach (var address in people)
        {
            var claim = await house.ClaimAsync(address);
            Assert.Equal(("taken", 0), (claim.State, claim.Workspaces));
        }
        // One account each on either side, with the memberships that belong to it, and nothing of a try that was broken off.
        Assert.Equal(
            people.Count,
            await CountAsync("SELECT count(*) FROM accounts WHERE address LIKE '%@own.example'")
        );
        Assert.Equal(people.Count, await CountAsync("SELECT count(*) FROM account_splits"));
        Assert.Equal(
            2 * people.Count,
            await CountAsync(
                """
                SELECT count(*) FROM members m JOIN accounts a ON a.id = m.account_id JOIN workspaces w ON w.id = m.workspace_id
                WHERE a.address LIKE '%@own.example' AND w.short_name = 'the-harbour'
                   OR a.address LIKE '%@crew.example' AND w.short_name = 'the-lantern-tide' AND a.custody_id = w.id
                """
            )
        );
        foreach (var workspace in new[] { house, other })
            Assert.True((await workspace.VerifyRecordAsync()).Whole);
        foreach (var address in people)
            Assert.Equal(HttpStatusCode.NoContent, await SignInAsync(OwnOf(address)));
        await EndAsync(last);

        async Task AnswerAsync(string address)
        {
            var asking = await MailAsync(address, "asks to hold your account", _ => true);
            var secret = ClaimPattern().Match(asking).Groups[1].Value;
            using var anybody = new AboardClient(Url);
            // A code outlives the process that mailed it, and whoever did not hear that it is on its way hears so when asking again.
            if (!sent.ContainsKey(address))
                await AskedAsync(anybody.SendClaimCodeAsync(secret, new ClaimCodeRequest(OwnOf(address))));
            sent[address] = true;
            var code = CodePattern().Match(await MailAsync(OwnOf(address), "Your code", _ => true)).Value;
            await anybody.AnswerClaimAsync(
                secret,
                new ClaimAnswerRequest("come-and-keep", OwnOf(address), code, Password)
            );
        }

        static async Task AskedAsync(Task asking)
        {
            try
            {
                await asking;
            }
            catch (RefusedException refused) when (refused.Problem.Code == "too-many") { }
        }
    }

    [Fact]
    public async Task Killed_while_people_come_in_by_their_own_organisation_nobody_is_half_in()
    {
        await using var dns = new DnsStandin();
        Reach(dns);
        await using var provider = await ProviderStandin.StartAsync("Harbour Museum");
        using var house = await SetUpWorkspaceAsync();
        var people = Enumerable.Range(0, 10).Select(n => $"sailor{n}").ToList();
        using (var service = await ServeAsync())
        {
            await ProveAsync(house, dns);
            await house.AddProviderAsync(
                new ProviderRequest(
                    "Harbour Museum",
                    provider.Issuer,
                    ProviderStandin.ClientId,
                    ProviderStandin.ClientSecret,
                    [Domain]
                )
            );
            foreach (var name in people)
            {
                provider.People[name] = new KnownPerson(name, name, $"{name}@{Domain}");
                await house.SendInvitationAsync(
                    new InvitationRequest($"{name}@{Domain}", "guest", "view"),
                    name
                );
            }
            await EndAsync(service);
        }
        await UnderFireAsync(people, ComeAsync);
        using var last = await ServeAsync();
        Assert.Equal(people.Count, (await house.InvitationsAsync()).Counts["accepted"]);
        foreach (var what in new[] { "accounts", "members" })
            Assert.Equal(
                people.Count,
                await CountAsync($"SELECT count(*) FROM {what} WHERE address LIKE '%@{Domain}'")
            );
        // The kind of a way in by another organisation.
        Assert.Equal(
            people.Count,
            await CountAsync(
                $"SELECT count(DISTINCT c.account_id) FROM credentials c JOIN accounts a ON a.id = c.account_id WHERE a.address LIKE '%@{Domain}'"
            )
        );
        Assert.True((await house.VerifyRecordAsync()).Whole);
        await EndAsync(last);

        async Task ComeAsync(string name)
        {
            using var browser = Browser();
            var asked = await browser.FormAsync(
                "/sign-in",
                "/sign-in/outside",
                new() { ["address"] = $"{name}@{Domain}", ["next"] = "" }
            );
            var onward = new Uri(asked.Headers.GetValues("Refresh").Single()["0; url=".Length..]);
            using var there = new HttpClient(new HttpClientHandler { AllowAutoRedirect = false });
            var granted = await there.GetAsync(new Uri($"{provider.Issuer}/authorize/{name}{onward.Query}"));
            var back = await browser.GetAsync(
                new Uri(granted.Headers.Location!.PathAndQuery, UriKind.Relative)
            );
            // A try that was broken off is made anew from its beginning.
            if (back.Headers.Location?.OriginalString != "/places")
                throw new HttpRequestException(await back.Content.ReadAsStringAsync());
        }
    }

    [Fact]
    public async Task Killed_while_accounts_are_made_one_and_parted_each_pair_is_one_or_two_and_nothing_between()
    {
        await using var dns = new DnsStandin();
        Reach(dns);
        using var house = await SetUpWorkspaceAsync();
        var pairs = Enumerable.Range(0, 12).Select(n => n.ToString()).ToList();
        using (var service = await ServeAsync())
        {
            await ProveAsync(house, dns);
            await house.Groups.AddAsync(new ComeAboard.Client.Access.GroupRequest("Watch"));
            foreach (var address in pairs.SelectMany(n => new[] { Kept(n), Gone(n) }))
                await house.AddAccountAsync(new HeldAccountRequest(address, "Sailor of the watch"));
            await house.PutIntoGroupAsync(
                "Watch",
                new ComeAboard.Client.Access.PeopleRequest([.. pairs.Select(Gone)])
            );
            foreach (var n in pairs)
                await house.GrantAsync(new ComeAboard.Client.Access.GrantRequest("edit", Gone(n)));
            await EndAsync(service);
        }
        await UnderFireAsync(pairs, TurnAsync);

        using var last = await ServeAsync();
        foreach (var n in pairs)
        {
            var isOne = IsOne(n);
            var (kept, gone) = (await house.PersonAsync(Kept(n)), await house.PersonAsync(Gone(n)));
            Assert.Equal(isOne, kept.Id == gone.Id);
            Assert.Equal(isOne, kept.Role.Contains("edit", StringComparison.Ordinal));
            Assert.Contains("Watch", gone.Role, StringComparison.Ordinal);
        }
        var ones = pairs.Count(IsOne);
        Assert.Equal(
            ones,
            await CountAsync(
                "SELECT count(*) FROM accounts WHERE merged_into_id IS NOT NULL AND closed_at IS NOT NULL"
            )
        );
        Assert.Equal(
            2 * pairs.Count - ones,
            await CountAsync(
                $"SELECT count(*) FROM members WHERE ended_at IS NULL AND address LIKE '%@{Domain}'"
            )
        );
        // Every address leads to an account that is open, and to one.
        Assert.Equal(
            2 * pairs.Count,
            await CountAsync(
                $"SELECT count(DISTINCT a.address_key) FROM account_addresses a JOIN accounts o ON o.id = a.account_id WHERE o.closed_at IS NULL AND a.address LIKE '%@{Domain}'"
            )
        );
        Assert.Equal(ones, (await house.MergesAsync()).Items.Count(merge => merge.UndoneAt is null));
        Assert.True((await house.VerifyRecordAsync()).Whole);
        await EndAsync(last);

        // Every third is parted again.
        static bool IsOne(string n) =>
            int.Parse(n, System.Globalization.CultureInfo.InvariantCulture) % 3 != 0;
        static string Kept(string n) => $"sailor{n}@{Domain}";
        static string Gone(string n) => $"deck.sailor{n}@{Domain}";

        async Task TurnAsync(string n)
        {
            // What a try whose answer was lost has done needs no doing again.
            await UnlessAsync("merge.one", house.MergeAsync(new MergeRequest(Kept(n), Gone(n), Kept(n))));
            if (!IsOne(n))
                await UnlessAsync("merge.over", house.UnmergeAsync(new UnmergeRequest(Gone(n))));
        }

        static async Task UnlessAsync(string code, Task call)
        {
            try
            {
                await call;
            }
            catch (RefusedException refused) when (refused.Problem.Code == code) { }
        }
    }

    [Fact]
    public async Task Killed_while_programs_are_given_tokens_every_token_that_was_given_counts()
    {
        using var house = await SetUpWorkspaceAsync();
        NewApplication made;
        using (var service = await ServeAsync())
        {
            made = await house.AddApplicationAsync(
                new ApplicationRequest("Crew board", Duties: ["people"], ActsFor: "mira@lantern-tide.example")
            );
            await EndAsync(service);
        }
        var given = new ConcurrentBag<string>();
        await UnderFireAsync([.. Enumerable.Range(0, 60).Select(n => n.ToString())], GiveAsync);
        using var last = await ServeAsync();
        Assert.Equal(60, given.Distinct().Count());
        foreach (var token in given)
        {
            using var program = new AboardClient(Url, "the-lantern-tide", token);
            Assert.NotEmpty((await program.PeopleAsync()).Items);
        }
        await EndAsync(last);

        async Task GiveAsync(string _)
        {
            using var http = new HttpClient { BaseAddress = Url };
            var answer = await http.PostAsync(
                new Uri("/oauth/token", UriKind.Relative),
                new FormUrlEncodedContent(
                    new Dictionary<string, string>
                    {
                        ["grant_type"] = "client_credentials",
                        ["client_id"] = made.Application.ClientId,
                        ["client_secret"] = made.Secret!,
                    }
                )
            );
            answer.EnsureSuccessStatusCode();
            var body = await answer.Content.ReadFromJsonAsync<JsonElement>();
            given.Add(body.GetProperty("access_token").GetString()!);
        }
    }

    private static string OwnOf(string address) => address.Split('@')[0] + "@own.example";

    private void Reach(DnsStandin dns)
    {
        Settings["COMEABOARD_DNS__SERVERS"] = dns.Address.ToString();
        Settings["COMEABOARD_PROVIDERS__NETWORKS"] = "127.0.0.0/8";
        Settings["COMEABOARD_LIMITS__SIGNINSPERMINUTE"] = "100000";
        Settings["COMEABOARD_LIMITS__CODESPERHOUR"] = "100000";
    }

    private static async Task ProveAsync(AboardClient house, DnsStandin dns)
    {
        var domain = await house.AddDomainAsync(new DomainRequest(Domain));
        dns.Put(domain.RecordName, domain.RecordValue);
        Assert.Equal("proved", (await house.CheckDomainAsync(Domain)).State);
    }

    /// <summary>Does something for each, some at a time, over and over until it is done, while the service is killed and started again.</summary>
    private async Task UnderFireAsync(IReadOnlyList<string> all, Func<string, Task> act)
    {
        var service = await ServeAsync();
        var work = Parallel.ForEachAsync(
            all,
            new ParallelOptions { MaxDegreeOfParallelism = 4 },
            async (one, _) => await AgainAsync(() => act(one))
        );
        for (var kill = 0; kill < Kills && !work.IsCompleted; kill++)
        {
            await Task.Delay(Random.Shared.Next(100, 700));
            service.Kill();
            await service.WaitForExitAsync();
            service.Dispose();
            service = await ServeAsync();
        }
        await work.WaitAsync(TimeSpan.FromMinutes(3));
        await EndAsync(service);
        service.Dispose();
    }

    /// <summary>Tries until it is done; a question that is over was answered by a try whose answer was lost.</summary>
    private static async Task AgainAsync(Func<Task> act)
    {
        for (var tries = 0; tries < 6_000; tries++)
        {
            try
            {
                await act();
                return;
            }
            catch (RefusedException refused) when (refused.Problem.Code == "claim.over")
            {
                return;
            }
            catch (Exception fault)
                when (fault
                        is HttpRequestException
                            or IOException
                            or TaskCanceledException
                            or RefusedException
                            {
                                Problem.Code: "server.unreachable"
                                    or "server.answer"
                                    or "service.fault"
                                    or "too-many"
                            }
                )
            {
                await Task.Delay(100);
            }
        }
        Assert.Fail("It was not done.");
    }

    /// <summary>Another workspace of the same service, with an administrator of its own.</summary>
    private async Task<AboardClient> SetUpAnotherAsync()
    {
        var init = await Programs.RunAsync(Programs.Service, Settings, null, "init", "--name", "The Harbour");
        var secret = Programs.LinkPattern().Match(init.Output).Value[^43..];
        using var service = await ServeAsync();
        using var browser = Browser();
        Assert.Equal(HttpStatusCode.Redirect, await SetUpAsync(browser, secret, "kofi"));
        using var anonymous = new AboardClient(Url);
        var token = await anonymous.SignInAsync(
            new ProgramSignInRequest("kofi@lantern-tide.example", Password, "the-harbour")
        );
        await EndAsync(service);
        return new AboardClient(Url, "the-harbour", token.Token);
    }

    private HttpClient Browser() =>
        new(new HttpClientHandler { AllowAutoRedirect = false, CookieContainer = new CookieContainer() })
        {
            BaseAddress = Url,
        };

    private async Task<HttpStatusCode> SignInAsync(string address)
    {
        using var browser = Browser();
        return (
            await browser.PostAsJsonAsync(
                new Uri("/api/v1/sessions", UriKind.Relative),
                new { address, password = Password }
            )
        ).StatusCode;
    }

    [GeneratedRegex("/claim/([A-Za-z0-9_-]{43})")]
    private static partial Regex ClaimPattern();

    [GeneratedRegex(@"\b\d{8}\b")]
    private static partial Regex CodePattern();
}
