using ComeAboard.Client.Invitations;
using ComeAboard.Core.Access;
using ComeAboard.Service.Http;
using ComeAboard.Service.Workspaces;

namespace ComeAboard.Service.Invitations;

/// <summary>Presets over HTTP.</summary>
public static class PresetEndpoints
{
    public static RouteGroupBuilder MapPresets(this RouteGroupBuilder workspace)
    {
        workspace
            .MapGroup("/presets")
            .ForMembers(Duties.Invite)
            .MapListed<Presets, PresetView>("Presets", (all, visitor) => all.ListAsync(visitor))
            .MapShown<Presets, PresetView>(
                "Preset",
                (all, who, name) => all.ShowAsync(who, name),
                p => p.Version
            )
            .MapNamed<Presets, PresetRequest, PresetView>(Presets.Sort, "Preset");
        return workspace;
    }
}
