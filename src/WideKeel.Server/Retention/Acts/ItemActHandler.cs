namespace WideKeel.Server.Retention;

/// <summary>An act whose consequences are items before and after it, so that each figure opens into its rows.</summary>
internal interface IItemAct
{
    Task<RuleChange> ChangeAsync(ActGround ground, string act);
}

/// <inheritdoc cref="IItemAct"/>
internal abstract class ItemActHandler<TAct, TResult> : ActHandler<TAct, TResult>, IItemAct
    where TAct : class
{
    public abstract Task<RuleChange> ChangeAsync(ActGround ground, TAct act);

    public Task<RuleChange> ChangeAsync(ActGround ground, string act) => ChangeAsync(ground, Read(act));

    public sealed override async Task<IFigures?> FiguresAsync(ActGround ground, TAct act) =>
        await (await ChangeAsync(ground, act)).FiguresAsync(ground.Db);
}
