import { Route, Switch } from "wouter";
import { LargeView } from "./bench/secondWindow";
import { ShootScreens } from "./shoot/ShootScreens";
import { Shoots } from "./shoots/Shoots";

export function App() {
  return (
    <Switch>
      <Route path="/" component={Shoots} />
      <Route path="/shoots/:id/large">{({ id }) => <LargeView key={id} shootId={Number(id)} />}</Route>
      <Route path="/shoots/:id/:screen?">
        {({ id, screen }) => <ShootScreens key={id} shootId={Number(id)} screen={screen ?? "wall"} />}
      </Route>
      <Route>
        <main className="grid h-full place-items-center">
          <p>
            There is no such page. <a href="/">Back to the shoots</a>
          </p>
        </main>
      </Route>
    </Switch>
  );
}
