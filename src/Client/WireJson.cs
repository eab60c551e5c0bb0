using System.Text.Json;
using System.Text.Json.Serialization;
using ComeAboard.Client.Accounts;
using ComeAboard.Client.Departures;
using ComeAboard.Client.Invitations;
using ComeAboard.Client.Record;
using ComeAboard.Client.SignIn;
using ComeAboard.Client.Workspaces;

namespace ComeAboard.Client;

/// <summary>JSON for the contracts, generated when the program is built, so that nothing is looked up when it starts.</summary>
[JsonSourceGenerationOptions(
    JsonSerializerDefaults.Web,
    DefaultIgnoreCondition = JsonIgnoreCondition.Never,
    NumberHandling = JsonNumberHandling.Strict
)]
[JsonSerializable(typeof(Problem))]
[JsonSerializable(typeof(WorkspaceView))]
[JsonSerializable(typeof(OverviewView))]
[JsonSerializable(typeof(InvitationRequest))]
[JsonSerializable(typeof(InvitationView))]
[JsonSerializable(typeof(InvitationPage))]
[JsonSerializable(typeof(InvitationPreview))]
[JsonSerializable(typeof(LinkRequest))]
[JsonSerializable(typeof(LandingView))]
[JsonSerializable(typeof(AcceptRequest))]
[JsonSerializable(typeof(AcceptAnswer))]
[JsonSerializable(typeof(CodeRequest))]
[JsonSerializable(typeof(DeclineRequest))]
[JsonSerializable(typeof(PersonView))]
[JsonSerializable(typeof(Page<PersonView>))]
[JsonSerializable(typeof(DepartureRequest))]
[JsonSerializable(typeof(DeparturePlanView))]
[JsonSerializable(typeof(DepartureView))]
[JsonSerializable(typeof(Page<DepartureView>))]
[JsonSerializable(typeof(RecordEntryView))]
[JsonSerializable(typeof(Page<RecordEntryView>))]
[JsonSerializable(typeof(RecordVerification))]
[JsonSerializable(typeof(SignInRequest))]
[JsonSerializable(typeof(ProgramSignInRequest))]
[JsonSerializable(typeof(TokenRequest))]
[JsonSerializable(typeof(TokenView))]
[JsonSerializable(typeof(Page<TokenView>))]
[JsonSerializable(typeof(NewToken))]
[JsonSerializable(typeof(MeView))]
[JsonSerializable(typeof(SetUpRequest))]
[JsonSerializable(typeof(AntiforgeryView))]
[JsonSerializable(typeof(CorrectionRequest))]
[JsonSerializable(typeof(ExtensionRequest))]
[JsonSerializable(typeof(FreshLink))]
[JsonSerializable(typeof(RefusalRequest))]
[JsonSerializable(typeof(StepsRequest))]
[JsonSerializable(typeof(StepsAnswer))]
[JsonSerializable(typeof(BouncedAddressView))]
[JsonSerializable(typeof(Page<BouncedAddressView>))]
[JsonSerializable(typeof(ReportAnswer))]
[JsonSerializable(typeof(BatchDefaults))]
[JsonSerializable(typeof(PastedRequest))]
[JsonSerializable(typeof(BatchView))]
[JsonSerializable(typeof(Page<BatchView>))]
[JsonSerializable(typeof(BatchEntryView))]
[JsonSerializable(typeof(Page<BatchEntryView>))]
[JsonSerializable(typeof(BatchCheck))]
[JsonSerializable(typeof(MendRequest))]
[JsonSerializable(typeof(PresetRequest))]
[JsonSerializable(typeof(PresetView))]
[JsonSerializable(typeof(Page<PresetView>))]
[JsonSerializable(typeof(JoinLinkRequest))]
[JsonSerializable(typeof(JoinLinkView))]
[JsonSerializable(typeof(Page<JoinLinkView>))]
[JsonSerializable(typeof(NewJoinLink))]
[JsonSerializable(typeof(JoinOfferView))]
[JsonSerializable(typeof(JoinRequest))]
[JsonSerializable(typeof(LinkDeparture))]
[JsonSerializable(typeof(FiguresView))]
[JsonSerializable(typeof(RulesView))]
[JsonSerializable(typeof(AppearanceView))]
[JsonSerializable(typeof(WordingView))]
[JsonSerializable(typeof(Page<WordingView>))]
[JsonSerializable(typeof(WordingRequest))]
[JsonSerializable(typeof(LetterView))]
public sealed partial class WireJson : JsonSerializerContext;
