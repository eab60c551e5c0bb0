using System.Collections.Frozen;
using System.Collections.Immutable;
using System.Runtime.CompilerServices;
using System.Text.Json;
using ComeAboard.Client.Access;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Workspaces;

namespace ComeAboard.Service.Access;

/// <summary>Whoever asks, with the workspace at this moment.</summary>
internal sealed record Asker(KeptWorld Kept, Guid Member, DateOnly Today, bool AsksAboutAll)
{
    private AccessWorld World => Kept.World;

    public EvaluationAnswer Decide(EvaluationRequest request)
    {
        var explains = request.Context?.GetValueOrDefault("explain") is { ValueKind: JsonValueKind.True };
        if (Find(request.Subject!) is not { } subject || !AsksAboutAll && subject != Member)
            return No(explains, "subject.unknown", "There is nobody here by that name.");
        if (request.Resource!.Type == "workspace")
            return OfWorkspace(request, subject, explains);
        if (PlaceOf(request.Resource) is not { } place)
            return No(explains, "resource.unknown", "There is no such resource here.");
        if (Words(request.Action!.Name!) is not { } asked)
            return No(explains, "action.unknown", "There is no such action here.");
        var held = World.LevelOf(subject, place, Today);
        var decision = Decision.Allows(
            held,
            asked,
            MadeBy(request.Resource) is { } maker ? maker == subject : null,
            World.Areas.GetValueOrDefault(place.Area)?.HasPrivateEntries ?? false
        );
        return explains ? Explained(subject, place, held, asked, decision) : new EvaluationAnswer(decision);
    }

    private EvaluationAnswer OfWorkspace(EvaluationRequest request, Guid subject, bool explains)
    {
        var name = request.Action!.Name!;
        if (request.Resource!.Id != Kept.Workspace.ShortName)
            return No(explains, "resource.unknown", "There is no such workspace here.");
        if (Words(name) is { } asked)
        {
            var held = World.LevelOf(subject, Place.Elsewhere, Today);
            return explains
                ? Explained(subject, Place.Elsewhere, held, asked, held >= asked)
                : new EvaluationAnswer(held >= asked);
        }
        if (!DutyWords.Read([name]).Try(out var duty, out _))
            return No(explains, "action.unknown", "There is no such action here.");
        var holds = World.DutiesHeldBy(subject, Today).HasFlag(duty);
        if (!explains)
            return new EvaluationAnswer(holds);
        var because = World.ExplainDuties(subject, Today).FirstOrDefault(answer => answer.Duty == duty);
        return new EvaluationAnswer(
            holds,
            new EvaluationReason(
                holds ? $"They hold the duty {name}." : $"They do not hold the duty {name}.",
                holds ? "granted" : "duty",
                [.. (because?.Because ?? []).Select(path => path.Grant.Id)]
            )
        );
    }

    private EvaluationAnswer Explained(Guid subject, Place place, Level held, Level asked, bool decision)
    {
        var answer = World.Explain(subject, place, Today);
        var reason =
            answer.Cut != Cut.None ? $"Nothing is allowed: {Differences.CutSentence(answer.Cut)}."
            : decision ? $"They hold {held.Word()} there, and {asked.Word()} is asked."
            : $"They hold {held.Word()} there; {asked.Word()} is asked.";
        return new EvaluationAnswer(
            decision,
            new EvaluationReason(
                reason,
                answer.Cut != Cut.None ? "cut." + answer.Cut.ToString().ToLowerInvariant()
                    : decision ? "granted"
                    : "level",
                [.. answer.Because.Select(path => path.Grant.Id)]
            )
        );
    }

    private static EvaluationAnswer No(bool explains, string code, string reason) =>
        new(false, explains ? new EvaluationReason(reason, code, []) : null);

    private Guid? Find(EvaluationSubject subject) =>
        subject.Type is not ("user" or "person") ? null : Find(subject.Id!);

    private Guid? Find(string person)
    {
        if (Guid.TryParse(person, out var id))
            return World.People.ContainsKey(id) ? id : null;
        // Most write the address as it is kept; reading it costs more than looking it up.
        if (World.ByAddress.TryGetValue(person, out id))
            return id;
        return
            EmailAddress.Read(person).Try(out var address, out _)
            && World.ByAddress.TryGetValue(address.Key, out id)
            ? id
            : null;
    }

    private Place? PlaceOf(EvaluationResource resource)
    {
        if (resource.Type == "area")
            return World.FindArea(resource.Id).Try(out var area, out _) ? Place.In(area) : null;
        if (resource.Type != "resource")
            return null;
        if (Guid.TryParse(resource.Id, out var id))
            return World.Resources.TryGetValue(id, out var known) ? Place.At(known) : null;
        return ByName(World.Resources).TryGetValue(Names.KeyOf(resource.Id!), out var found)
            ? Place.At(found)
            : null;
    }

    private Guid? MadeBy(EvaluationResource resource) =>
        resource.Properties?.GetValueOrDefault("made_by") is { ValueKind: JsonValueKind.String } maker
            // Somebody unknown is somebody else.
            ? Find(maker.GetString()!) ?? Guid.Empty
            : null;

    private static Level? Words(string action) =>
        action switch
        {
            "view" => Level.View,
            "contribute" => Level.Contribute,
            "edit" => Level.Edit,
            "manage" => Level.Manage,
            _ => null,
        };

    // Resources change seldom and are asked for by name all the time.
    private static readonly ConditionalWeakTable<
        ImmutableDictionary<Guid, Resource>,
        FrozenDictionary<string, Resource>
    > ResourcesByName = [];

    private static FrozenDictionary<string, Resource> ByName(ImmutableDictionary<Guid, Resource> resources) =>
        ResourcesByName.GetValue(
            resources,
            all => all.Values.ToFrozenDictionary(r => Names.KeyOf(r.Name), StringComparer.Ordinal)
        );
}
